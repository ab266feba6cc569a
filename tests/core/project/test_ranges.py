"""A shot of several ranges: frames 1-10 and 25-30, and none between them, wherever frames are counted."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from film import exact_seconds, make_project, make_shot, well_timed
from pemlo.core.arrivals.what_is_missing import wanted_frames
from pemlo.core.cost.draws import draw_film, shot_knots
from pemlo.core.errors import InputError
from pemlo.core.film.film import Film
from pemlo.core.frames import format_ranges, parse_frames, ranges_of
from pemlo.core.persistence.csv_launch import read_launch, write_launch
from pemlo.core.persistence.csv_shots import read_shots, write_shots
from pemlo.core.persistence.document import read_project, write_project
from pemlo.core.preflight.all_checks import run_checks
from pemlo.core.preflight.check_context import plan_rows, situation_of
from pemlo.core.preflight.finding import FINE, WRONG
from pemlo.core.project.rates import rate_change
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.shots import Shot
from pemlo.core.units import HOUR_S
from pemlo.handover.command_lines import command_line, whole_shots
from pemlo.handover.pieces import pieces_of
from pemlo.handover.settings_sheet import settings_sheet

PARTS = ((1, 10), (25, 30))


def ranged(**fields):
    return make_shot("010", 30).replace(ranges=PARTS, **fields)


def film(shot=None, **fields):
    return make_project(shots=(shot or ranged(),), trials=well_timed("010", (1, 10, 25, 30)), **fields)


def test_sixteen_frames_take_sixteen_times_as_long_and_not_thirty():
    """By hand: 16 × 77.23 s."""
    shot = ranged()
    assert (shot.frame_count, shot.rendered_count(shot.asked), shot.span_count) == (16, 16, 30)
    hours = Film(film()).forecast.hours
    assert hours.middle == pytest.approx(16 * exact_seconds(FrameSettings(samples=256)) / HOUR_S, rel=0.03)
    assert Film(film()).run.film.middle == pytest.approx(hours.middle, rel=0.06)


def test_every_second_frame_is_counted_from_the_start_of_each_range():
    shot = ranged(asked={"samples": 256, "frame_step": 2})
    assert tuple(shot.rendered_frames(shot.asked)) == (1, 3, 5, 7, 9, 25, 27, 29)
    assert shot.rendered_count(shot.asked) == 8


def test_handles_hang_on_each_range_and_those_that_meet_are_rendered_once():
    assert ranged(handles=2).parts_to_render(ranged().asked) == ((-1, 12), (23, 32))
    shot = ranged(handles=8)
    assert shot.parts_to_render(shot.asked) == ((-7, 38),)
    assert shot.rendered_count(shot.asked) == 46 == len(shot.rendered_frames(shot.asked))


def test_what_is_missing_is_in_the_ranges():
    shot = ranged()
    assert wanted_frames(shot) == (*range(1, 11), *range(25, 31))


def test_a_table_says_ranges_and_gets_them_back():
    (shot,) = read_shots('shot,frames,samples\n010,"1-10, 25-30",64\n')
    assert (shot.first, shot.last, shot.ranges) == (1, 30, PARTS)
    project = film(ranged())
    assert read_shots(write_shots(project))[0].ranges == PARTS
    (plain,) = read_shots(write_shots(film(make_shot("010", 30))))
    assert plain.ranges == ()


def test_a_table_without_ranges_ends_those_that_there_were():
    from pemlo.core.persistence.csv_shots import over

    (shot,) = read_shots("shot,first,last,samples\n010,1,40,64\n")
    assert over(ranged(), shot).parts == ((1, 40),)


def test_a_launch_of_each_range_is_right_and_one_of_all_frames_is_not():
    project = film()
    (one, other) = plan_rows(project, project.shots[0])
    right = project.replace(launch=(one, other))
    outcomes = {found.check: found for found in run_checks(situation_of(right)) if found.shot == "010"}
    assert (outcomes["range"].outcome, outcomes["pieces"].outcome) == (FINE, FINE)
    whole = project.replace(launch=(one.replace(last=30),))
    (found,) = [found for found in run_checks(situation_of(whole)) if found.check == "range"]
    assert (found.outcome, "1-10, 25-30 and has 1-30" in found.words) == (WRONG, True)
    mended = found.mend.change(whole)
    assert [(row.first, row.last) for row in mended.launch] == list(PARTS)
    half = project.replace(launch=(one,))
    (found,) = [found for found in run_checks(situation_of(half)) if found.check == "range"]
    assert found.outcome == WRONG


def test_a_gap_inside_of_a_range_is_one():
    project = film()
    one, other = plan_rows(project, project.shots[0])
    rows = (one.replace(last=4), one.replace(first=7), other)
    (found,) = [f for f in run_checks(situation_of(project.replace(launch=rows))) if f.check == "pieces"]
    assert "nobody renders 5-6." in found.words


def test_a_launch_table_says_ranges_in_one_row():
    project = film()
    rows = read_launch('shot,frames,samples\n010,"1-10, 25-30",256\n', project)
    assert [(row.first, row.last, row.samples) for row in rows] == [(1, 10, 256), (25, 30, 256)]
    assert read_launch(write_launch(rows), project) == rows


def test_the_sheet_and_the_commands_name_each_range():
    project = film()
    (sheet,) = settings_sheet(project, whole_shots(project))
    assert (sheet.frames, sheet.count, sheet.pieces) == ("1-10,25-30", 16, ())
    commands = [command_line("render {shot} {first} {last}", project, piece) for piece in whole_shots(project)]
    assert commands == ["render 010 1 10", "render 010 25 30"]
    pieces = pieces_of(project, Film(project).run)
    assert sorted(frame for piece in pieces for frame in range(piece.first, piece.last + 1)) == list(
        project.shots[0].frames
    )


def test_it_is_saved_and_read(tmp_path):
    path = tmp_path / "film.pemlo"
    write_project(film(), path)
    assert read_project(path).shots[0].ranges == PARTS


def test_another_rate_makes_each_range_longer():
    """Twice the rate: 10 frames become 20, 6 become 12, and the 14 between them 28."""
    (shot,) = rate_change(film(fps=24), 48.0, "seconds").project.shots
    assert shot.parts == ((1, 20), (49, 60))


@pytest.mark.parametrize("ranges", [((1, 10), (5, 30)), ((10, 1), (25, 30)), ((2, 10), (25, 30)), ((25, 30), (1, 10))])
def test_ranges_that_cannot_be_are_refused(ranges):
    with pytest.raises((InputError, ValueError), match="range"):
        Shot(name="010", first=1, last=30, ranges=ranges, asked={"samples": 64})


@given(st.sets(st.integers(-300, 300), min_size=1, max_size=80))
@settings(max_examples=100)
def test_every_set_of_frames_is_ranges_of_a_step_and_is_read_again(frames):
    frames = tuple(sorted(frames))
    step, ranges = ranges_of(frames)
    assert [frame for first, last in ranges for frame in range(first, last + 1, step)] == list(frames)
    assert parse_frames(format_ranges(ranges, step)) == frames
    shot = Shot(name="010", first=frames[0], last=frames[-1], step=step, ranges=ranges if len(ranges) > 1 else (),
                asked={"samples": 64})  # fmt: skip
    assert tuple(shot.frames) == frames
    _, share = shot_knots(shot)
    assert share.sum() == pytest.approx(1.0)


def test_the_mean_is_that_of_the_frames_that_are_wanted():
    """Cost that rises along the shot: without the frames between them the mean lies elsewhere."""
    shot = Shot(name="010", first=1, last=100, ranges=((1, 10), (96, 100)), asked={"samples": 256})
    trials = tuple(
        one.replace(seconds=one.seconds * (1 + one.frame / 50)) for one in well_timed("010", (1, 25, 50, 75, 100))
    )
    project = make_project(shots=(shot,), trials=trials)
    known = Film(project).fit
    mine = draw_film(known, project)["010"]
    seconds = Film(project).forecast.shots[0].seconds.middle
    frames = np.array(shot.frames)
    by_hand = exact_seconds(FrameSettings(samples=256)) * np.mean(1 + frames / 50)
    assert seconds == pytest.approx(by_hand, rel=0.05)
    assert mine.share[0] > 0
