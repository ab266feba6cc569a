"""The marks of frames: a state is told by shape, whatever the colours; many stay quick to show."""

import numpy as np
import pytest

from film import exact_trial, make_project, make_shot
from pemlo.core.arrivals.states import FrameState
from pemlo.core.project.machines import Machine
from pemlo.gui.watch.marks import (
    UNKNOWN,
    MarkColours,
    RowMarks,
    draw_marks,
    frame_numbers,
    grid_for,
    scale_of,
    strengths,
)
from pemlo.gui.watch.presenter import cost_profile_of
from watched import Played

LOOK = MarkColours((255, 255, 255), (120, 120, 120), (0, 80, 90), (180, 50, 40))
GREY = MarkColours((255, 255, 255), (0, 0, 0), (0, 0, 0), (0, 0, 0))


def row(*states, strength=1.0):
    return RowMarks(np.array(states, np.int8), np.full(len(states), strength))


@pytest.mark.parametrize("width", [3, 4, 7, 12])
def test_every_state_has_a_shape_of_its_own_without_colour(width):
    states = list(FrameState)
    grid = grid_for(6, 1, 6 * width, 22)
    assert grid.cell == width
    pixels = draw_marks([row(*states)], grid, 6 * width, GREY).pixels
    shapes = {pixels[:, k * width : (k + 1) * width - 1, 0].tobytes() for k in range(6)}
    # At the smallest size what is lost and what is broken look alike: both are to be rendered again.
    assert len(shapes) == (5 if width <= 4 else 6)


def test_what_took_longer_is_stronger():
    grid = grid_for(2, 1, 20, 22)
    marks = RowMarks(np.array([FrameState.IN] * 2, np.int8), np.array([0.0, 1.0]))
    pixels = draw_marks([marks], grid, 20, LOOK).pixels
    middle = pixels[pixels.shape[0] // 2]
    assert middle[2, 2] > middle[12, 2] + 50  # less ink


def test_more_frames_than_pixels_stand_together_and_trouble_is_still_seen():
    states = np.full(5000, FrameState.IN, np.int8)
    states[2500:] = FrameState.WAITING
    states[1000] = FrameState.BROKEN
    grid = grid_for(5000, 1, 500, 22)
    assert grid.cell == pytest.approx(0.1)
    pixels = draw_marks([RowMarks(states, np.ones(5000))], grid, 500, LOOK).pixels
    top = (grid.pitch - grid.high) // 2
    assert tuple(pixels[top, 100, [2, 1, 0]]) == LOOK.trouble
    assert tuple(pixels[top + grid.high - 1, 50, [2, 1, 0]]) == LOOK.there
    assert tuple(pixels[top + grid.high - 1, 400, [2, 1, 0]]) != LOOK.there


def test_only_rows_that_changed_are_drawn_anew():
    grid = grid_for(3, 2, 30, 44)
    rows = [row(2, 2, 0), row(0, 0, 0)]
    first = draw_marks(rows, grid, 30, LOOK)
    first.pixels[2:6, :, 0] = 7  # a stain on the first row
    second = draw_marks([rows[0], row(2, 0, 0)], grid, 30, LOOK, first)
    assert (second.pixels[2:6, :, 0] == 7).all()
    fresh = draw_marks([rows[0], row(2, 0, 0)], grid, 30, LOOK)
    assert (second.pixels[grid.pitch :] == fresh.pixels[grid.pitch :]).all()
    other = draw_marks(rows, grid, 30, GREY, second)
    assert not (other.pixels[2:6, :, 0] == 7).any()


def test_what_a_frame_took_tells_how_strong_it_is():
    scale = scale_of(np.array([10.0, 20.0, 40.0, np.nan]))
    found = strengths(np.array([10.0, 40.0, np.nan]), scale)
    assert found[0] < 0.1
    assert found[1] > 0.9
    assert found[2] == UNKNOWN
    assert (strengths(np.array([5.0]), scale_of(np.array([5.0]))) == UNKNOWN).all()


def test_frames_from_one_place_to_another():
    assert frame_numbers(np.array([1, 3, 5, 7]), 3, 1) == (3, 5, 7)


def test_the_course_reaches_over_the_handles(tmp_path):
    trials = (exact_trial("010", 1, 256), exact_trial("010", 20, 256, factor=2.0))
    project = make_project((make_shot("010", 20).replace(handles=4),), trials, (Machine(name="desk"),))
    seen = Played(project, tmp_path).seen(12 * 60.0)
    shown = cost_profile_of(seen, "010")
    assert (shown.first, shown.last) == (-3, 24)
    assert (shown.at[0], shown.at[-1]) == (-3, 24)
    assert shown.middle[0] == shown.middle[1] < shown.middle[-2] == shown.middle[-1]
    assert len(shown.frames)
    assert shown.frames.min() == -3
