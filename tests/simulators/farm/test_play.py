"""The small farm plays: real files, in time, with the faults that were ordered."""

import numpy as np
import pytest

from film import make_project, make_shot
from pemlo.core.arrivals.farm_clock import FarmClock, now_in, read_clock, write_clock
from pemlo.core.arrivals.frame_check import check_frame
from pemlo.core.arrivals.place import place_of
from pemlo.core.files.header import read_header
from pemlo.core.persistence.document import write_project
from pemlo.core.persistence.trial_header import fields_of, is_ours
from pemlo.core.progress import Cancelled, Unwatched
from pemlo.core.project.machines import Machine
from pemlo.core.project.timed_sizes import file_sizes
from pemlo.core.project.trials import Trial
from pemlo.core.project.watching import AgainMark, Watching
from pemlo_simulators.farm.pictures import render_pictures
from pemlo_simulators.farm.run import farm_run
from watched import plain_pictures

PLACE = place_of("{shot}/{shot}.{frame:04}.exr")


def film():
    shots = (make_shot("010", 6), make_shot("020", 4))
    trials = tuple(Trial(shot=shot.name, frame=1, seconds=100.0, samples=256) for shot in shots)
    return make_project(shots, trials, (Machine(name="desk"), Machine(name="blade")), width=320, height=180)


class Wall:
    """A clock on the wall that goes on only while somebody rests."""

    def __init__(self):
        self.now, self.rested = 1000.0, 0.0

    def __call__(self):
        return self.now

    def rest(self, seconds):
        self.now += seconds
        self.rested += seconds


def run(tmp_path, **more):
    made = farm_run(film(), tmp_path / "r", place=PLACE, speed=100.0, **more)
    made.pictures = plain_pictures(film())
    return made


def test_frames_come_as_real_files_in_their_time(tmp_path):
    wall, made, seen = Wall(), run(tmp_path, log="sheet"), []
    made.play(Unwatched(), lambda one: seen.append((one.at, wall.now)), wall, wall.rest)
    assert wall.rested == pytest.approx(made.coming[-1].at / 100.0, rel=1e-6)
    for at, moment in seen:
        assert moment - 1000.0 == pytest.approx(at / 100.0, abs=1e-6)
    path = tmp_path / "r/010/010.0003.exr"
    assert check_frame(path, (320, 180)).trouble == ""
    header = read_header(path)
    said = fields_of(header, {})
    assert is_ours(header)
    assert (said["frame"], said["samples"]) == (3, 256)
    assert said["seconds"] == pytest.approx(next(one.seconds for one in made.coming if one.frame == 3), rel=1e-4)
    assert path.stat().st_mtime == pytest.approx(film().start.timestamp() + made.coming[2].at, abs=200)
    assert len((tmp_path / "r/small-farm.log").read_text().splitlines()) == 10


def test_it_says_what_it_renders_before_the_first_frame_of_a_shot(tmp_path):
    wall, made, said = Wall(), run(tmp_path), []
    made.play(Unwatched(), wall=wall, rest=wall.rest, says=said.append)
    assert said == [
        "Rendering the small pictures of 010, shot 1 of 2", "Frames of 010 arrive",
        "Rendering the small pictures of 020, shot 2 of 2", "Frames of 020 arrive",
    ]  # fmt: skip


@pytest.mark.parametrize("percent", [40.0, 160.0])
def test_frames_stand_for_those_that_are_rendered_smaller_or_larger(tmp_path, percent):
    project = film()
    shots = tuple(make_shot(shot.name, shot.frame_count, resolution_percent=percent) for shot in project.shots)
    made = farm_run(project.replace(shots=shots), tmp_path / "r", place=PLACE, speed=100.0)
    made.pictures, wall = plain_pictures(film()), Wall()
    made.play(Unwatched(), lambda one: None, wall, wall.rest)
    wanted = file_sizes((320, 180), percent)
    assert check_frame(tmp_path / "r/010/010.0003.exr", wanted[0], {}, wanted[-1]).trouble == ""


def test_noise_is_that_of_so_many_samples():
    pictures = plain_pictures(film())["010"]
    few, many = (np.std(pictures.frame(0.5, samples, 1) - pictures.frame(0.5, 1e12, 1)) for samples in (16, 256))
    assert few == pytest.approx(np.sqrt(0.02 / 16), rel=0.02)
    assert few / many == pytest.approx(4.0, rel=0.02)


def test_pictures_are_really_rendered_and_differ_along_the_shot():
    found = render_pictures(film(), "010")
    assert found.colour.shape == (3, 90, 160, 3)
    assert found.variance.mean() > 0
    assert abs(found.colour[0] - found.colour[2]).mean() > 1e-3


def test_the_time_is_told_and_stands_still_when_nobody_tells_it(tmp_path):
    project = film().replace(watching=Watching(place="r/{shot}/{shot}.{frame:04}.exr"))
    assert now_in(project, tmp_path, 5000.0)[0].timestamp() == 5000.0
    (tmp_path / "r").mkdir()
    write_clock(tmp_path / "r", FarmClock(project.start, 600.0, 7200.0, 5000.0))
    now, slack = now_in(project, tmp_path, 5001.0)
    assert (now - project.start).total_seconds() == 7200 + 600
    assert slack == 1200
    assert (now_in(project, tmp_path, 9000.0)[0] - project.start).total_seconds() == 7200 + 3 * 600
    (tmp_path / "r/small-farm.json").write_text("{")
    assert read_clock(tmp_path / "r") is None


def test_it_stops_when_it_is_asked_to(tmp_path):
    class Stop:
        def step(self, fraction, text):
            if fraction > 0.3:
                raise Cancelled

    wall, made = Wall(), run(tmp_path)
    with pytest.raises(Cancelled):
        made.play(Stop(), None, wall, wall.rest)
    assert 0 < made.written < 10


def test_a_new_plan_and_frames_again_are_followed(tmp_path):
    job = tmp_path / "job.pemlo"
    write_project(film(), job)
    wall, made = Wall(), run(tmp_path, film=job, faults="black:010/2")

    def told(one):
        if one.frame == 6 and one.shot == "010" and len(made.delivered) < 8:
            since = film().start.timestamp() + one.at
            mark = AgainMark(shot="010", frames="2", since=film().start.fromtimestamp(since, film().start.tzinfo))
            few = tuple(shot.replace(plan=shot.asked.replace(samples=16)) for shot in film().shots)
            write_project(film().replace(shots=few, watching=Watching(again=(mark,))), job)

    made.play(Unwatched(), told, wall, wall.rest)
    assert check_frame(tmp_path / "r/010/010.0002.exr", (320, 180)).trouble == ""  # it was black, and is rendered again
    assert fields_of(read_header(tmp_path / "r/020/020.0004.exr"), {})["samples"] == 16
    assert fields_of(read_header(tmp_path / "r/010/010.0001.exr"), {})["samples"] == 256
