"""A still and a set of stills are said as people say them: durations, no certainties, each note once."""

import re

import numpy as np
import pytest

from film import make_project, make_shot
from pemlo.cli.main import main
from pemlo.core.film.film import Film
from pemlo.core.persistence.document import write_project
from pemlo.core.project.machines import Machine
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.trials import Trial

ASKED = ShotSettings(samples=256)


def timed(name, seconds):
    return Trial(shot=name, frame=1, seconds=seconds, **ASKED.frame_fields())


def said(capsys, tmp_path, project, command):
    write_project(project, tmp_path / "job.pemlo")
    main([command, str(tmp_path / "job.pemlo")])
    return capsys.readouterr().out


@pytest.fixture
def still():
    return make_project((make_shot("010", 1),), (timed("010", 135.0),), deadline="2031-04-21T12:00Z")


@pytest.fixture
def fifty():
    shots = tuple(make_shot(f"s{k:02d}", 1) for k in range(1, 51))
    trials = tuple(timed(shot.name, 100.0 + k) for k, shot in enumerate(shots[:5]))
    return make_project(shots, trials, (Machine(name="m", count=1),), deadline="2031-04-21T12:00Z")


def test_a_still_of_two_minutes_is_minutes_in_shot_and_film(capsys, tmp_path, still):
    lines = said(capsys, tmp_path, still, "estimate").splitlines()
    shot, film = (next(line for line in lines if line.startswith(name)) for name in ("010", "film"))
    # By hand: one frame that was timed at 135 s takes 2 m 15 s, within a few seconds.
    minutes, seconds = map(int, re.search(r"(\d+) m (\d\d) s \(", shot).groups())
    assert abs(60 * minutes + seconds - 135) <= 5
    assert re.findall(r"\d+ m \d\d s", shot) == re.findall(r"\d+ m \d\d s", film)
    assert "machine time" in lines[0]


def test_what_a_machine_does_for_a_still_is_not_thousandths_of_an_hour(capsys, tmp_path, still):
    assert re.search(r"reference +2 m \d\d s busy, 0 h idle", said(capsys, tmp_path, still, "finish"))


@pytest.mark.parametrize("command", ["estimate", "plan", "finish"])
def test_no_chance_is_a_certainty(capsys, tmp_path, still, command):
    words = said(capsys, tmp_path, still, command)
    assert "more than 99" in words
    assert "100%" not in words


def test_a_film_of_one_shot_does_not_wait_for_it(capsys, tmp_path, still, fifty):
    assert "waits for" not in said(capsys, tmp_path, still, "plan")
    early = fifty.replace(trials=fifty.trials[:1], shots=fifty.shots[:2])
    assert "waits for" in said(capsys, tmp_path, early, "plan")


def test_what_is_assumed_of_many_shots_is_said_once_with_their_names(capsys, tmp_path, fifty):
    words = said(capsys, tmp_path, fifty, "estimate")
    assert words.count("One trial only") == words.count("Not timed: taken from") == 1
    assert "s01, s02, s03, s04, s05: One trial only" in words
    assert "s12, s13 and 37 more: Not timed" in words


def test_a_way_out_says_that_its_hours_are_the_safe_ones(capsys, tmp_path, fifty):
    words = said(capsys, tmp_path, fifty, "plan")
    ways = re.search(r"each safe within the (\S+) h available: (.*)", words)
    hours = [float(one) for one in re.findall(r"\(([\d.]+) h\)", ways[2])]
    assert hours
    assert max(hours) <= float(ways[1])


def test_fifty_stills_each_timed_once_take_what_they_took():
    """By hand: the sum of fifty times, each as well as a time repeats; no single one may be a slip of twice as much."""
    shots = tuple(make_shot(f"{k:03d}", 1) for k in range(1, 51))
    took = np.random.default_rng(3).integers(60, 140, 50).astype(float)
    asked = ShotSettings(samples=256)
    trials = tuple(
        Trial(shot=shot.name, frame=1, seconds=seconds, **asked.frame_fields())
        for shot, seconds in zip(shots, took, strict=True)
    )
    found = Film(make_project(shots, trials)).forecast
    assert found.hours.middle == pytest.approx(took.sum() / 3600, rel=0.01)
    assert found.hours.high < 1.04 * took.sum() / 3600
    for one, seconds in zip(found.shots, took, strict=True):
        assert one.seconds.middle == pytest.approx(seconds, rel=0.04)
        assert one.seconds.high < 1.25 * seconds


def test_a_still_reframed_as_a_square_says_its_size_and_time(tmp_path, capsys):
    path = tmp_path / "still.pemlo"
    asked = ShotSettings(samples=256)
    timed = Trial(shot="010", frame=1, seconds=135.0, **asked.frame_fields())
    write_project(make_project((make_shot("010", 1),), (timed,)), path)
    assert main(["estimate", str(path), "--reframed", "square"]) == 0
    said = capsys.readouterr()
    assert "Reframed as square: 1080×1080 px." in said.err
    assert "Likely 1 m" in said.out
    assert main(["estimate", str(path)]) == 0
    assert "Likely 2 m 15 s" in capsys.readouterr().out
