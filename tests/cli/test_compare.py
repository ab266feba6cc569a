"""``pemlo compare``: the contract of its output, and what is refused."""

import json

import pytest

from film import make_project, make_shot, well_timed
from pemlo.cli.main import main
from pemlo.core.persistence.document import write_project
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.trials import Trial


@pytest.fixture
def job(tmp_path):
    shot = make_shot("010").replace(plan=ShotSettings(samples=64))
    path = tmp_path / "job.pemlo"
    write_project(make_project(shots=(shot, make_shot("020")), trials=well_timed()), path)
    return path


def test_as_json_it_says_both_ways_and_what_is_saved(job, capsys):
    assert main(["compare", str(job), "--shot", "010", "asked", "plan", "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert (found["shot"], found["frames"]) == ("010", 100)
    assert (found["first"]["settings"]["samples"], found["second"]["settings"]["samples"]) == (256, 64)
    assert 0.4 < found["saved_share"]["p50"] < 0.9
    hours = found["first"]["machine_hours"]["p50"] - found["second"]["machine_hours"]["p50"]
    assert found["saved_machine_hours"]["p50"] == pytest.approx(hours, rel=0.02)
    assert found["second"]["error"] is None


def test_settings_over_what_was_asked_may_name_what_no_trial_has(job, capsys):
    words = "noise_threshold=0.075,denoise=frame,split=4,1,2"
    assert main(["compare", str(job), "--shot", "010", "asked", words]) == 0
    text = capsys.readouterr().out
    assert "threshold 0.075" in text
    assert "frame, split 4,1,2" in text
    assert "error not measured" in text


def test_a_way_that_was_timed_is_named_like_a_lever(tmp_path, capsys):
    """30 s and 10 s of one frame: 67 %, 20 s a frame over 100 frames."""
    path = tmp_path / "job.pemlo"
    timed = {"shot": "010", "frame": 50, "samples": 256}
    trials = (Trial(**timed, seconds=30.0), Trial(**timed, seconds=10.0, way="quick engine"))
    write_project(make_project(shots=(make_shot("010"),), trials=trials), path)
    assert main(["compare", str(path), "--shot", "010", "asked", "way=quick engine"]) == 0
    text = capsys.readouterr().out
    assert "As timed: 30.0 s against 10.0 s over 100 frames: 67 % and 33 m 20 s of machine time saved." in text.replace(
        "\n", " "
    )
    assert "about the same" not in text.lower()


def test_the_film_is_compared_without_a_shot(job, capsys):
    assert main(["compare", str(job), "asked", "plan"]) == 0
    assert capsys.readouterr().out.startswith("The film: as asked against plan")


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["--shot", "999", "asked", "plan"], "no such shot"),
        (["--shot", "010", "asked", "colour=red"], "there is no lever colour"),
        (["--shot", "010", "asked", "samples"], "is not a lever"),
        (["--shot", "010", "asked", "samples=none"], "samples"),
        (["--shot", "010", "asked", "frame_step=500"], "leaves a single one"),
    ],
)
def test_what_is_wrong_is_said(job, capsys, arguments, words):
    assert main(["compare", str(job), *arguments]) == 2
    assert words in capsys.readouterr().err


def test_nothing_timed_is_nothing_to_compare(tmp_path, capsys):
    path = tmp_path / "job.pemlo"
    write_project(make_project(), path)
    assert main(["compare", str(path), "asked", "plan"]) == 2
    assert "Nothing was timed" in capsys.readouterr().err
