"""`pemlo plan` as people call it."""

import json
from dataclasses import replace

import pytest

from exr import write_exr
from film import make_project, make_shot, well_timed
from pemlo.cli.main import main
from pemlo.core.persistence.document import read_project, write_project
from pemlo.core.project.trials import Trial
from pemlo.core.trade.least_squares import least_sum
from photographs import gaussian, photograph

SIZE = (160, 104)


@pytest.fixture
def job(tmp_path):
    """A film of two shots, whose deadline is near; of one there are pictures."""
    clean = photograph("astronaut", SIZE)
    trials = [*well_timed("010"), *well_timed("020", frames=(1, 25, 50))]
    for samples in (16, 1024):
        name = f"n{samples}.exr"
        write_exr(tmp_path / name, *gaussian(clean, 40 / samples**0.5, samples))
        trials.append(Trial(shot="010", frame=34, samples=samples, seconds=20 + 0.35 * samples, picture=name))
    project = make_project((make_shot("010", 100), make_shot("020", 50)), tuple(trials), deadline="2031-04-21T12:00Z")
    path = tmp_path / "job.pemlo"
    write_project(project, path)
    return path


def plan(job, capsys, *arguments):
    assert main(["plan", str(job), "--json", *arguments]) == 0
    return json.loads(capsys.readouterr().out)


def test_the_answer_has_every_part(job, capsys):
    found = plan(job, capsys)
    assert set(found) == {
        "feasible", "goal", "shots", "machine_hours", "odds", "worst_ratio", "missing_machine_hours", "disagreements",
        "proved", "gap", "groups", "running",
    }  # fmt: skip
    assert [shot["shot"] for shot in found["shots"]] == ["010", "020"]
    for shot in found["shots"]:
        assert set(shot) == {"shot", "settings", "machine_hours", "error", "ceiling", "flicker", "flicker_limit"}
        assert set(shot["machine_hours"]) == {"p05", "p50", "p95"}
    assert found["feasible"]
    assert found["odds"] >= 0.9
    # Of the other shot there is no picture: it stays as asked, and its error is not known.
    assert found["shots"][1]["error"] is None
    assert found["shots"][1]["settings"]["samples"] == 256
    assert found["shots"][0]["settings"] != found["shots"][1]["settings"]


def test_a_plan_that_is_not_proved_says_so(job, capsys, monkeypatch):
    """A bound that leaves two hundredths open."""
    assert plan(job, capsys)["proved"]
    project = read_project(job)
    write_project(
        project.replace(delivery=project.delivery.replace(assembly_minutes=1.0)), job
    )  # another film: looked for anew
    monkeypatch.setattr("pemlo.core.trade.best_plan.least_sum", lambda *given: replace(least_sum(*given), gap=0.02))
    found = plan(job, capsys)
    assert (found["proved"], found["gap"]) == (False, 0.02)
    assert main(["plan", str(job)]) == 0
    assert "A better plan could lower the squared errors by 2.0% at most." in capsys.readouterr().out


def test_the_same_seed_gives_the_same_plan(job, capsys):
    assert plan(job, capsys) == plan(job, capsys)


def test_goals_differ(job, capsys):
    picture, hours, missing = (plan(job, capsys, "--goal", goal) for goal in ("picture", "hours", "missing"))
    assert hours["worst_ratio"] <= 1 + 1e-6
    # Nothing is marked: what was asked sets the ceiling, and two hours are too few for it.
    assert missing["missing_machine_hours"] > 0
    assert not missing["feasible"]
    assert picture["missing_machine_hours"] == 0
    assert picture["worst_ratio"] > 1


def test_levers_can_be_held_and_the_plan_adopted(job, capsys):
    found = plan(job, capsys, "--set", "010.resolution_percent=100", "--adopt")
    assert found["shots"][0]["settings"]["resolution_percent"] == 100
    kept = read_project(job)
    assert kept.shot("010").plan.samples == found["shots"][0]["settings"]["samples"]
    assert kept.shot("010").pins == ("resolution_percent",)
    assert kept.shot("020").plan is None


def test_without_adopting_nothing_is_written(job, capsys):
    before = job.read_bytes()
    plan(job, capsys)
    assert job.read_bytes() == before


def test_in_words(job, capsys):
    assert main(["plan", str(job)]) == 0
    words = capsys.readouterr().out
    assert words.startswith("010: ")
    assert "It saves" in words
    assert "1 shot not changed (020): " in words
    assert "The film waits for shot" in words


def test_wrong_input_is_told_and_changes_nothing(job, capsys):
    assert main(["plan", str(job), "--set", "010.samples=lots"]) == 2
    assert "samples" in capsys.readouterr().err
    assert main(["plan", str(job.parent / "none.pemlo")]) == 2


def test_a_damaged_picture_is_told_and_the_shot_stays_as_asked(job, capsys):
    (job.parent / "n1024.exr").write_bytes(b"no picture")
    assert main(["plan", str(job), "--json"]) == 0
    out, err = capsys.readouterr()
    assert "n1024.exr" in err
    assert json.loads(out)["shots"][0]["error"] is None


def test_a_film_that_was_never_timed_says_what_to_do(tmp_path, capsys):
    path = tmp_path / "job.pemlo"
    write_project(make_project(), path)
    assert main(["plan", str(path)]) == 2
    assert "Time one frame first" in capsys.readouterr().err
