"""Frames rendered by programs that Pemlo does not know: what is measured, what is a trial, what is none and why."""

import json
import os
import signal
import subprocess
import sys
import threading
import time
from dataclasses import replace
from pathlib import Path

import psutil
import pytest
from hypothesis import given
from hypothesis import strategies as st

from exr import write_exr
from pemlo.core.errors import FileError, InputError, PemloError
from pemlo.core.progress import Cancelled, Unwatched
from pemlo.core.project.render_ways import RenderWay
from pemlo.core.project.settings import FrameSettings
from pemlo.core.trialrun.landed import from_record, landed
from pemlo.core.trialrun.output_text import read_marked_line
from pemlo.core.trialrun.run import prepared, records
from pemlo.core.trialrun.session import Company, Place, mark_taken, not_taken
from pemlo.core.trialrun.template import FrameTask
from photographs import photograph
from render_programs import program

MIB = 2**20


def task(samples=8, frame=5, size=(64, 36), **fields):
    return FrameTask("010", frame, size, FrameSettings(samples=samples), **fields)


def place(tmp_path, name, size=0, **fields):
    way = RenderWay(name="main", command=program(tmp_path, name, size), **{"picture": ".png", **fields})
    return Place(way, "here", tmp_path / "pictures", tmp_path)


def render(tmp_path, name, size=0, samples=8, **fields):
    return place(tmp_path, name, size, **fields).render(task(samples), Unwatched())


def marked(tmp_path, name):
    """Processes of a program that are still there."""
    return [one for one in psutil.process_iter(["cmdline"]) if f"{tmp_path}/{name}.py" in (one.info["cmdline"] or [])]


def test_the_time_is_that_of_the_wall(tmp_path):
    """By hand: 0.05 s and 0.005 s a sample: 190 samples are one second, and the start of Python."""
    found = render(tmp_path, "works", samples=190)
    assert found.why == ""
    said = float((found.run.folder / "output.txt").read_text().split()[-2])
    assert found.trial.seconds >= said
    # An outside clock: the same command, timed around it.
    words = [*found.run.command.words]
    words[2] = str(tmp_path / "again.png")
    outside = []
    for _ in range(2):
        began = time.monotonic()
        subprocess.run(words, check=True, capture_output=True)
        outside.append(time.monotonic() - began)
    # Whatever else the machine does only adds; how near it is on a quiet one `./dev programs` measures.
    assert 0.95 * min(outside) <= found.trial.seconds <= 1.25 * max(outside)
    assert (found.trial.width, found.trial.height) == (64, 36)
    assert Path(found.trial.picture).is_file()
    assert found.trial.processor_seconds < 0.5, "it slept, and took no processor"


def test_what_it_writes_tells_the_seconds_where_a_line_is_marked(tmp_path):
    line = read_marked_line("Frame [frame:12] took [seconds:3.250 s]")
    found = render(tmp_path, "works", samples=40, output=(line,))
    said = (found.run.folder / "output.txt").read_text()
    assert found.trial.seconds == pytest.approx(float(said.split()[-2]), abs=1e-9)
    assert found.trial.seconds < found.measured.seconds


def test_a_marked_line_that_does_not_come_is_no_trial(tmp_path):
    found = render(tmp_path, "black", output=(read_marked_line("done in [seconds:3.250 s]"),))
    assert found.trial is None
    found = render(tmp_path, "slow", output=(read_marked_line("done in [seconds:3.250 s]"),))
    assert "No line of its output tells the seconds" in found.why


def test_a_renderer_that_leaves_its_parent_is_waited_for(tmp_path):
    found = render(tmp_path, "forks")
    assert found.why == ""
    assert 0.8 < found.trial.seconds < 3
    assert not marked(tmp_path, "forks")


def test_what_lingers_after_the_frame_is_ended_and_takes_no_time(tmp_path):
    began = time.monotonic()
    found = render(tmp_path, "lingers")
    assert found.why == ""
    assert found.trial.seconds < 2
    assert found.measured.left_behind == 1
    assert time.monotonic() - began < 20
    assert not marked(tmp_path, "lingers")


class StopsAfter:
    def __init__(self, seconds):
        self.end = time.monotonic() + seconds

    def step(self, fraction, text):
        if time.monotonic() > self.end:
            raise Cancelled


def test_what_does_not_hear_a_stop_is_stopped_at_once_with_all_children(tmp_path):
    stops = StopsAfter(1.0)
    with pytest.raises(Cancelled):
        place(tmp_path, "deaf").render(task(), stops)
    assert time.monotonic() - stops.end < 3
    assert not marked(tmp_path, "deaf")
    assert not records(tmp_path / "pictures"), "nothing is left of a frame that was stopped"


def test_a_limit_ends_a_frame_and_makes_a_trial_that_ran_into_it(tmp_path):
    found = render(tmp_path, "endless", time_limit_s=0.7)
    trial = found.trial
    assert trial.only_says_longer
    assert trial.most_seconds == 0.7
    assert 0.7 <= trial.seconds < 1.5
    assert not marked(tmp_path, "endless")


def test_a_gigabyte_of_words_is_read_and_not_kept(tmp_path):
    found = render(tmp_path, "prints", size=10**9, output=(read_marked_line("done in [seconds:3 s]"),))
    assert found.trial.seconds == 1.5, "the last line is kept"
    assert found.measured.output_bytes >= 10**9
    assert (found.run.folder / "output.txt").stat().st_size < 2 * MIB


def test_a_picture_that_is_written_slowly_is_whole(tmp_path):
    found = render(tmp_path, "slow")
    assert found.why == ""
    assert found.trial.seconds > 0.5


def test_a_crash_at_one_sample_count_says_its_last_words(tmp_path):
    found = render(tmp_path, "crashes", samples=32)
    assert found.trial is None
    assert found.why == "The renderer failed: exit status 3. It said last: light 3 has no map"
    assert render(tmp_path, "crashes", samples=16).trial is not None


@pytest.mark.parametrize(
    ("name", "words"),
    [
        ("nothing", "There is no picture"), ("black", "black"), ("small", "32×18 px, and 64×36 were asked for"),
        ("cut", "damaged"), ("killed", "ended by signal 11. It said nothing."),
    ],
)  # fmt: skip
def test_what_is_no_trial_says_why(tmp_path, name, words):
    found = render(tmp_path, name)
    assert found.trial is None
    assert words in found.why


def test_memory_is_the_highest_of_the_tree_within_a_twentieth(tmp_path):
    found = render(tmp_path, "holds", size=400 * MIB)
    assert found.measured.memory_bytes == pytest.approx(400 * MIB, rel=0.05)
    assert found.trial.memory_gib == pytest.approx(400 / 1024, rel=0.05)


@pytest.mark.nightly
def test_memory_of_two_gibibytes(tmp_path):
    found = render(tmp_path, "holds", size=2048 * MIB)
    assert found.trial.memory_gib == pytest.approx(2.0, rel=0.05)


def test_a_format_that_is_not_known_is_timed_and_said(tmp_path):
    line = read_marked_line("finished picture [frame:7]: [seconds:0m 3.11s], [mean_samples:12] rays")
    found = render(tmp_path, "own format", picture=".mine", output=(line,))
    assert found.trial.seconds == 1.25
    assert found.trial.mean_samples == 96
    assert found.trial.picture == ""
    assert "cannot be read here" in found.said[0]


def test_nothing_that_must_not_be_touched_is_touched_unsaid(tmp_path):
    (tmp_path / "final").mkdir()
    (tmp_path / "final/a.txt").write_text("precious")
    guarded = place(
        tmp_path, "touches", untouched=("final",), environment=(("PRECIOUS", str(tmp_path / "final/a.txt")),)
    )
    with pytest.raises(PemloError, match="must never be touched"):
        guarded.render(task(), Unwatched())


def test_a_picture_in_a_folder_that_must_not_be_touched_is_refused(tmp_path):
    (tmp_path / "final").mkdir()
    command = program(tmp_path, "works").replace("{out}", "final/{frame:04}.png")
    way = RenderWay(name="main", command=command, picture="final/{frame:04}.png", untouched=("final",))
    with pytest.raises(InputError, match="below"):
        prepared(way, task(), "here", tmp_path / "pictures", tmp_path)


def test_a_picture_that_is_there_is_never_overwritten(tmp_path):
    (tmp_path / "frame.0005.png").write_text("mine")
    command = program(tmp_path, "works").replace("{out}", "frame.{frame:04}.png")
    way = RenderWay(name="main", command=command, picture="frame.{frame:04}.png")
    with pytest.raises(FileError, match="exists already"):
        prepared(way, task(), "here", tmp_path / "pictures", tmp_path)
    assert (tmp_path / "frame.0005.png").read_text() == "mine"


def fixed_place(tmp_path, name="works", **fields):
    command = program(tmp_path, name).replace("{out}", "frame.{frame:04}.png")
    return Place(
        RenderWay(name="main", command=command, picture="frame.{frame:04}.png", **fields),
        "here", tmp_path / "film pictures", tmp_path,
    )  # fmt: skip


def test_a_place_that_is_always_the_same_is_free_for_the_next_trial_of_its_frame(tmp_path):
    one = fixed_place(tmp_path)
    first, second = (one.render(task(samples), Unwatched()) for samples in (8, 16))
    assert (first.why, second.why) == ("", "")
    assert first.trial.picture != second.trial.picture
    assert all(Path(found.trial.picture).parent == tmp_path / "film pictures" for found in (first, second))
    assert all(Path(found.trial.picture).stat().st_size for found in (first, second))
    assert not (tmp_path / "frame.0005.png").exists()
    # What was read anew from the record is the same trial.
    assert from_record(second.run.folder).trial.picture == second.trial.picture


def test_what_others_put_at_such_a_place_while_the_renderer_ran_is_left_alone(tmp_path):
    one = fixed_place(tmp_path, "nothing")
    old = tmp_path / "old.png"
    old.write_text("mine")
    os.utime(old, (1e9, 1e9))
    found = one.render(task(), Unwatched(), begun=lambda run: old.rename(run.landing))
    assert "is older than the run" in found.why
    assert (tmp_path / "frame.0005.png").read_text() == "mine"


def test_one_place_for_every_picture_holds_one_frame_at_once(tmp_path):
    with pytest.raises(InputError, match="one frame at once"):
        prepared(fixed_place(tmp_path, at_once=2).way, task(), "here", tmp_path / "film pictures", tmp_path)


def test_a_program_that_is_not_there_says_what_to_do(tmp_path):
    way = RenderWay(name="main", command="/nowhere/draw {frame} {out}")
    with pytest.raises(InputError, match=r"“/nowhere/draw” cannot be started: No such file"):
        Place(way, "here", tmp_path / "pictures", tmp_path).render(task(), Unwatched())


def test_other_work_on_the_computer_is_measured_and_widens_the_time(tmp_path):
    from pemlo.core.cost.observations import load_sd

    busy = subprocess.Popen([sys.executable, "-c", "while True: pass"])
    try:
        found = render(tmp_path, "works", samples=200)
    finally:
        busy.kill()
        busy.wait()
    # The frame sleeps: what the other program takes is one processor, or its share where all are busy.
    assert found.trial.other_load > 0.4 / os.cpu_count()
    assert load_sd(found.trial) > load_sd(found.trial.replace(other_load=0.0)) == 0.0


KILLED = """
import sys
from pathlib import Path
from pemlo.core.progress import Unwatched
from pemlo.core.project.render_ways import RenderWay
from pemlo.core.project.settings import FrameSettings
from pemlo.core.trialrun.session import Place
from pemlo.core.trialrun.template import FrameTask
folder = Path(sys.argv[1])
for command in sys.argv[2:]:
    way = RenderWay(name="main", command=command, picture=".png")
    Place(way, "here", folder / "pictures", folder).render(
        FrameTask("010", 5, (64, 36), FrameSettings(samples=8)), Unwatched())
    print("landed", flush=True)
"""


def test_kill_nine_leaves_no_child_and_loses_no_finished_frame(tmp_path):
    commands = [program(tmp_path, "works"), program(tmp_path, "deaf")]
    run = subprocess.Popen(
        [sys.executable, "-c", KILLED, str(tmp_path), *commands], stdout=subprocess.PIPE, text=True,
        env={**os.environ, "PYTHONPATH": os.pathsep.join(sys.path)},
    )  # fmt: skip
    assert run.stdout.readline() == "landed\n"
    while len(marked(tmp_path, "deaf")) < 4:
        time.sleep(0.05)
    run.send_signal(signal.SIGKILL)
    run.wait()
    run.stdout.close()
    until = time.monotonic() + 10
    while marked(tmp_path, "deaf") and time.monotonic() < until:
        time.sleep(0.05)
    assert not marked(tmp_path, "deaf")
    finished = [from_record(folder) for folder in not_taken(records(tmp_path / "pictures"))]
    trial = finished[0].trial
    assert len(finished) == 1
    assert (trial.shot, trial.frame, trial.samples) == ("010", 5, 8)
    mark_taken([one.run.folder for one in finished])
    assert not not_taken(records(tmp_path / "pictures"))


def test_frames_at_once_are_those_that_ran_side_by_side(tmp_path):
    company = Company()
    places = [place(tmp_path, "works") for _ in range(2)]
    for one in places:
        one.company = company
    landed = []
    threads = [
        threading.Thread(target=lambda one=one: landed.append(one.render(task(200), Unwatched()))) for one in places
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert [one.trial.frames_at_once for one in landed] == [2, 2]
    assert places[0].render(task(), Unwatched()).trial.frames_at_once == 1


def test_the_first_frame_on_a_machine_is_left_out_where_it_is_wanted(tmp_path):
    cold = place(tmp_path, "works", first_left_out=True)
    first, second = (cold.render(task(), Unwatched()) for _ in range(2))
    assert first.trial.left_out == "first run after start"
    assert second.trial.left_out == ""


def test_of_a_process_that_renders_several_the_first_is_left_out(tmp_path):
    from pemlo.core.trialrun.output_reader import read_output

    line = read_marked_line("frame [frame:1] took [seconds:3 s]")
    text = "frame 5 took 9.0 s\nframe 6 took 4.0 s\n"
    first, second = (read_output((line,), text, frame) for frame in (5, 6))
    assert (first.values["seconds"], first.first_of_several) == (9.0, True)
    assert (second.values["seconds"], second.first_of_several) == (4.0, False)


def test_a_record_that_is_none_is_refused(tmp_path):
    (tmp_path / "run.json").write_text('{"shot": 1}')
    with pytest.raises(InputError):
        from_record(tmp_path)
    (tmp_path / "run.json").write_bytes(b"\xff\xfe")
    with pytest.raises(InputError):
        from_record(tmp_path)


def test_a_tool_for_pictures_is_a_renderer_of_real_ones(tmp_path):
    """`oiiotool` brings a photograph to the size that is asked for, and says in its own words what it took."""
    tool = Path(sys.executable).with_name("oiiotool")
    write_exr(tmp_path / "photo.0005.exr", photograph("astronaut", (256, 256)))
    lines = ("  Total time: [seconds:2.00s]", "  Peak memory:    [memory:48.7 MB]")
    way = RenderWay(
        name="main",
        command=f"{tool} --runstats {tmp_path}/photo.{{frame:04}}.exr --resize {{width}}x{{height}} --median {{samples}}x{{samples}} -o {{out}}",
        output=tuple(map(read_marked_line, lines)),
    )
    found = Place(way, "here", tmp_path / "pictures", tmp_path).render(task(samples=5, size=(320, 180)), Unwatched())
    assert found.why == ""
    assert 0.02 < found.trial.seconds <= found.measured.seconds
    assert 10 < 1024 * found.trial.memory_gib < 500
    assert found.trial.picture.endswith(".exr")


def test_a_computer_that_slept_meanwhile_was_no_clock(tmp_path):
    found = render(tmp_path, "works")
    slept = landed(found.run, replace(found.measured, slept_seconds=3600.0), "")
    assert slept.trial.left_out == "the computer slept meanwhile"
    assert "slept for 1 h" in slept.said[0]


def test_frames_of_a_sleeping_computer_go_on(tmp_path):
    """The clock of a session and of a frame stands while the computer sleeps: only what it worked counts."""
    began = time.monotonic(), time.clock_gettime(time.CLOCK_BOOTTIME)
    found = render(tmp_path, "works")
    assert found.measured.slept_seconds < 0.1
    assert time.monotonic() - began[0] >= found.measured.seconds


def test_a_planted_record_is_not_taken_in(tmp_path):
    """A record that comes with a project names a way that nobody allowed here."""
    from pemlo.core.trialrun import allowed

    found = render(tmp_path, "works")
    assert from_record(found.run.folder).trial is not None
    assert not allowed.may_run(from_record(found.run.folder).run.way, tmp_path)
    allowed.allow(found.run.way, tmp_path)
    assert allowed.may_run(from_record(found.run.folder).run.way, tmp_path)


@pytest.mark.parametrize(
    "change",
    [
        {"size": []}, {"size": None}, {"region": [1]}, {"region": 3}, {"frame": "x"}, {"settings": []}, {"settings": {"samples": -1}}, {"way": None},
        {"measured": None}, {"measured": {"seconds": "soon"}}, {"measured": {"seconds": []}}, {"measured": {"more": 1}}, {"measured": {"code": {}}},
        {"picture": None}, {"command": 5}, {"seed": None},
    ],
    ids=str,
)  # fmt: skip
def test_a_record_with_lies_in_it_is_refused(tmp_path, change):
    found = render(tmp_path, "black")
    path = found.run.folder / "run.json"
    path.write_text(json.dumps(json.loads(path.read_text()) | change))
    with pytest.raises(InputError):
        from_record(found.run.folder)


def test_a_record_of_lists_in_lists_is_refused(tmp_path):
    (tmp_path / "run.json").write_text("[" * 200_000)
    with pytest.raises(InputError):
        from_record(tmp_path)


@given(st.binary(max_size=200))
def test_no_record_breaks_what_reads_it(tmp_path_factory, data):
    folder = tmp_path_factory.mktemp("run")
    (folder / "run.json").write_bytes(data)
    with pytest.raises(InputError):
        from_record(folder)
