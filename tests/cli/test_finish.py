"""``pemlo finish``: the contract of its output, and what is refused."""

import csv
import io
import json
from datetime import datetime, timedelta

import pytest
from icalendar import Calendar

from film import make_project, make_shot, well_timed
from pemlo.cli.main import main
from pemlo.core.persistence.document import read_project, write_project
from pemlo.core.project.edits import keep_set, set_running, set_shot
from pemlo.core.project.machines import Machine
from pemlo.core.project.running import FirstPass
from pemlo.core.project.settings import ShotSettings

MACHINES = (
    Machine(name="desk", hours="Mon-Fri 19:00-08:00, Sat-Sun all day", price_per_hour=2.0),
    Machine(name="blade", count=2, speed=1.5, frames_at_once=2, loss_percent=5),
)


def slow():
    """Trials of frames that take twenty times as long."""
    return tuple(trial.replace(seconds=trial.seconds * 20) for trial in well_timed())


def job_of(tmp_path, **more):
    path = tmp_path / "job.pemlo"
    fields = {"shots": (make_shot("010"), make_shot("020", 50)), "trials": well_timed(), "machines": MACHINES, **more}
    write_project(make_project(**fields), path)
    return path


def test_as_json_it_has_every_part(tmp_path, capsys):
    assert main(["finish", str(job_of(tmp_path)), "--draws", "200", "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert set(found) == {"odds", "finish", "shots", "machines", "bottleneck"}
    assert set(found["finish"]) == {"p05", "p50", "p95"}
    assert [shot["shot"] for shot in found["shots"]] == ["010", "020"]
    assert set(found["machines"][0]) == {
        "machine", "busy_hours", "idle_hours", "warming_hours", "lost_hours", "cost",
    }  # fmt: skip
    moments = [datetime.fromisoformat(found["finish"][name]) for name in ("p05", "p50", "p95")]
    assert moments == sorted(moments)
    assert found["machines"][1]["cost"] is None
    assert found["machines"][1]["lost_hours"] > 0
    assert "ends last" in found["bottleneck"]


def test_the_same_seed_says_the_same(tmp_path, capsys):
    job = job_of(tmp_path)
    said = []
    for seed in ("3", "3", "4"):
        assert main(["finish", str(job), "--draws", "50", "--seed", seed, "--json"]) == 0
        said.append(capsys.readouterr().out)
    assert said[0] == said[1]
    assert said[0] != said[2]


def test_a_trace_says_who_rendered_what_when(tmp_path, capsys):
    assert main(["finish", str(job_of(tmp_path)), "--draws", "40", "--trace"]) == 0
    rows = list(csv.DictReader(io.StringIO(capsys.readouterr().out)))
    assert len(rows) == 150
    assert {(row["shot"], row["frame"]) for row in rows} == {
        *(("010", str(k)) for k in range(1, 101)), *(("020", str(k)) for k in range(1, 51)),
    }  # fmt: skip
    by_slot = {}
    for row in rows:
        by_slot.setdefault(row["slot"], []).append((row["begin"], row["end"]))
    assert all(end <= begin for spans in by_slot.values()
               for (_, end), (begin, _) in zip(sorted(spans), sorted(spans)[1:], strict=False))  # fmt: skip


def test_longest_first_is_another_order(tmp_path, capsys):
    job = job_of(tmp_path)
    assert main(["finish", str(job), "--draws", "20", "--order", "shortest", "--json"]) == 0
    found = {shot["shot"]: shot["finish"]["p50"] for shot in json.loads(capsys.readouterr().out)["shots"]}
    assert found["020"] < found["010"]


@pytest.mark.parametrize(
    ("more", "words"),
    [
        ({"trials": ()}, "Nothing was timed"),
        ({"machines": ()}, "no machine"),
        ({"machines": (Machine(name="desk", hours="never"),)}, "ever free"),
    ],
)
def test_what_cannot_be_said_is_refused(tmp_path, capsys, more, words):
    assert main(["finish", str(job_of(tmp_path, **more))]) == 2
    assert words in capsys.readouterr().err


def test_a_frame_that_no_machine_can_hold_never_ends(tmp_path, capsys):
    trials = tuple(trial.replace(memory_gib=100.0) for trial in well_timed())
    job = job_of(tmp_path, trials=trials, machines=(Machine(name="desk", memory_gib=32),))
    assert main(["finish", str(job), "--draws", "5", "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found["finish"]["p50"] is None
    assert found["odds"] == 0
    assert "needs 100 GiB" in found["bottleneck"]
    assert main(["finish", str(job), "--draws", "5", "--trace"]) == 0
    rows = list(csv.DictReader(io.StringIO(capsys.readouterr().out)))
    assert {(row["machine"], row["end"]) for row in rows if row["shot"] == "010"} == {("", "")}


def test_a_frame_longer_than_any_night_never_ends_if_it_starts_again(tmp_path, capsys):
    hour = (Machine(name="desk", hours="Mon-Sun 20:00-20:01"),)
    job = str(job_of(tmp_path, machines=hour, trials=slow()))
    assert main(["finish", job, "--draws", "5", "--starts-again"]) == 0
    said = capsys.readouterr().out
    assert "Shot 010 never ends: a frame takes about" in said
    assert "starts again each time" in said
    assert main(["finish", job, "--draws", "5"]) == 0  # where it goes on, it is only late
    assert "never ends" not in capsys.readouterr().out


def test_seconds_before_each_frame_are_added(tmp_path, capsys):
    job = str(job_of(tmp_path, machines=(Machine(name="desk"),)))
    busy = []
    for more in ([], ["--dispatch", "36"]):
        assert main(["finish", job, "--draws", "5", "--json", *more]) == 0
        busy.append(json.loads(capsys.readouterr().out)["machines"][0]["busy_hours"])
    assert busy[1] - busy[0] == pytest.approx(1.5, rel=1e-4)  # 150 frames


def test_it_says_what_it_would_take(tmp_path, capsys):
    desk = Machine(name="desk", hours="Mon-Sun 20:00-08:00", speed=0.05, price_per_hour=2.0)
    never = Machine(name="toy", speed=1e-7)
    job = str(job_of(tmp_path, machines=(desk, never)))
    assert main(["finish", job, "--takes", "--json"]) == 0
    ways = json.loads(capsys.readouterr().out)["takes"]
    assert [(way["machine"], way["kind"]) for way in ways] == [
        ("desk", "machines"), ("desk", "days"), ("toy", "machines"), ("", "rent"),
    ]  # fmt: skip
    assert ways[0]["least"]["odds"] >= 0.9
    assert ways[0]["least"]["cost"] > 0
    assert ways[2]["least"] is None
    assert [one["machine"] for one in ways[3]["rented"]] == ([] if ways[3]["least"] is None else ["desk"])
    assert set(ways[3]) >= {"as_entered", "a_day_later"}
    assert main(["finish", job, "--takes"]) == 0
    said = capsys.readouterr().out
    assert "for 90% it would take" in said
    assert f"desk: {ways[0]['least']['extra']} more; chance" in said
    assert "toy: not even 256 more are enough" in said


def test_a_calendar_can_be_opened_by_others_and_fits_the_machines_nights(tmp_path, capsys):
    desk = Machine(name="desk", hours="Mon-Sun 20:00-08:00", speed=0.05)
    job, file = str(job_of(tmp_path, machines=(desk,))), tmp_path / "run.ics"
    assert main(["finish", job, "--draws", "9", "--json", "--calendar", str(file)]) == 0
    found = json.loads(capsys.readouterr().out)
    events = Calendar.from_ical(file.read_bytes()).walk("VEVENT")  # RFC 5545, by a library
    work = [event for event in events if str(event["summary"]).startswith("desk")]
    for event in work:
        begin, end = event.decoded("dtstart"), event.decoded("dtend")
        assert begin < end <= begin + timedelta(hours=12)
        assert begin.hour >= 20 or begin.hour < 8
        assert end.hour < 8 or end == end.replace(hour=8, minute=0, second=0) or end.hour >= 20
    # One machine that takes one frame at a time: every frame ends once, and the last of them is the end.
    frames = sum(int(str(event["description"]).split(": ")[1].split()[0]) for event in work)
    assert frames == 150
    (end,) = (event for event in events if "expected" in event["summary"])
    second = timedelta(seconds=1)
    assert abs(end.decoded("dtstart") - max(event.decoded("dtend") for event in work)) <= second
    assert abs(end.decoded("dtstart") - datetime.fromisoformat(found["finish"]["p50"])) <= second
    (due,) = (event for event in events if "due" in event["summary"])
    assert due.decoded("dtstart") == datetime.fromisoformat("2031-04-24T18:00+00:00")
    assert len({event["uid"] for event in events}) == len(events)


def test_the_hours_as_a_table_are_those_of_the_run(tmp_path, capsys):
    desk = Machine(name="desk", hours="Mon-Sun 20:00-08:00", speed=0.05)
    job, file = str(job_of(tmp_path, machines=(desk,))), tmp_path / "hours.csv"
    assert main(["finish", job, "--draws", "9", "--hours", str(file), "--trace"]) == 0
    trace = list(csv.DictReader(capsys.readouterr().out.splitlines()))
    rows = list(csv.DictReader(file.read_text().splitlines()))
    assert sum(int(row["frames"]) for row in rows) == len(trace) == 150
    assert {row["machine"] for row in rows} == {"desk"}
    for row in rows:
        begin, end = (datetime.fromisoformat(row[name]) for name in ("begin", "end"))
        assert (end - begin).total_seconds() / 3600 == pytest.approx(float(row["hours"]), abs=0.02)
        assert begin.hour >= 20 or begin.hour < 8
        assert end - begin <= timedelta(hours=12)
    shots = [name for row in rows for name in row["shots"].split()]
    assert list(dict.fromkeys(shots)) == ["010", "020"]


def test_a_film_with_dates_and_a_first_pass_says_their_chances(tmp_path, capsys):
    job = job_of(tmp_path)
    project = keep_set(read_project(job), "review", ShotSettings(samples=8))
    project = set_running(project, first_pass=FirstPass(settings="review", due="2031-04-21T20:00Z"))
    write_project(set_shot(project, "020", due="2031-04-22T18:00Z"), job)
    assert main(["finish", str(job), "--draws", "9", "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found["first_pass"] == {"due": "2031-04-21T20:00:00+00:00", "odds": 1.0}
    assert [shot.get("odds") for shot in found["shots"]] == [None, 1.0]
    assert main(["finish", str(job), "--draws", "9"]) == 0
    assert "020         due Tue 18:00: chance more than 99%" in capsys.readouterr().out


def test_a_calendar_that_cannot_be_written_is_refused(tmp_path, capsys):
    job = str(job_of(tmp_path))
    assert main(["finish", job, "--draws", "2", "--calendar", str(tmp_path / "no" / "run.ics")]) == 2
    assert "run.ics cannot be saved" in capsys.readouterr().err


@pytest.mark.parametrize("text", ["-1", "soon", "1e9"])
def test_seconds_before_each_frame_that_cannot_be_are_refused(tmp_path, capsys, text):
    with pytest.raises(SystemExit):
        main(["finish", str(job_of(tmp_path)), f"--dispatch={text}"])
    assert text in capsys.readouterr().err


def test_orders_are_said_with_what_they_give(tmp_path, capsys):
    job = str(job_of(tmp_path))
    assert main(["finish", job, "--draws", "5", "--orders", "--json"]) == 0
    orders = json.loads(capsys.readouterr().out)["orders"]
    assert orders[0]["order"] == "film"
    assert {order["order"] for order in orders} == {"film", "longest", "shortest"}
    assert main(["finish", job, "--draws", "5", "--orders"]) == 0
    assert "film, as now: done" in capsys.readouterr().out


def test_a_new_film_takes_speeds_from_frames_timed_on_several_machines(tmp_path, capsys):
    tables = {
        "shots": "shot,first,last,samples\n010,1,100,256\n",
        "trials": "shot,frame,seconds,machine\n010,1,4:02,desk\n010,1,2:01,blade\n",
        "machines": "machine,count\ndesk,1\nblade,2\n",
    }
    for name, text in tables.items():
        (tmp_path / f"{name}.csv").write_text(text)
    given = [word for name in tables for word in (f"--{name}", str(tmp_path / f"{name}.csv"))]
    job = tmp_path / "job.pemlo"
    asked = [
        "new",
        "--title",
        "F",
        "--start",
        "2031-04-21T10:00",
        "--deadline",
        "2031-04-24T18:00",
        "--timezone",
        "UTC",
    ]
    assert main([*asked, *given, "--speeds-from-trials", "-o", str(job)]) == 0
    assert "blade: 2.00 (1.87–2.14) times as fast, from 1 frame" in capsys.readouterr().out
    assert [machine.speed for machine in read_project(job).machines] == [1.0, 2.0]
