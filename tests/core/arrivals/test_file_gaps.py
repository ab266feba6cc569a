"""Render times from the times of files alone."""

import numpy as np
import pytest

from pemlo.core.arrivals.file_gaps import chains, gap_seconds


def written(first, seconds, start=0.0):
    """Frames of one machine that renders a range: numbers, and when each was written."""
    return np.arange(first, first + len(seconds)), start + np.cumsum(seconds)


def test_ranges_of_several_machines_are_chains_of_their_own():
    random = np.random.default_rng(0)
    parts = [(written(first, speed * random.uniform(90, 130, 40), start), speed)
             for first, speed, start in ((1, 1.0, 0.0), (101, 0.6, 7.0), (201, 3.3, 11.0))]  # fmt: skip
    frames = np.concatenate([one[0] for one, _ in parts])
    ended = np.concatenate([one[1] for one, _ in parts])
    truth = np.concatenate([np.concatenate([[np.nan], np.diff(one[1])]) for one, _ in parts])
    mixed = random.permutation(len(frames))
    seconds, chain = gap_seconds(frames[mixed], ended[mixed])
    assert len(np.unique(chain)) == 3
    known = np.isfinite(seconds)
    assert known.sum() == len(frames) - 3  # the first of a chain has no gap
    assert seconds[known] == pytest.approx(truth[mixed][known], rel=0.02)


def test_a_night_and_a_pause_are_left_out():
    seconds = np.full(30, 100.0)
    seconds[12], seconds[20] = 9 * 3600, 400
    frames, ended = written(1, seconds)
    found, _ = gap_seconds(frames, ended)
    assert np.isnan(found[[0, 12, 20]]).all()
    assert found[[1, 11, 13, 29]].tolist() == [100.0] * 4


def test_frames_of_every_second_number_and_negative_ones():
    frames, ended = written(0, np.full(10, 50.0))
    found, chain = gap_seconds(2 * frames - 8, ended, step=2)
    assert set(chain.tolist()) == {0}
    assert found[1:].tolist() == [50.0] * 9


def test_where_it_is_known_which_machine_wrote_what_that_tells():
    # Two machines take turns: numbers alone would make one chain of both.
    frames, ended = np.arange(1, 21), np.sort(np.concatenate([np.arange(10) * 100.0, np.arange(10) * 100.0 + 31]))
    machine = np.tile([0, 1], 10)
    found, _ = gap_seconds(frames, ended, machine=machine)
    assert np.isnan(found[:2]).all()
    assert found[2:].tolist() == [100.0] * 18


def test_too_few_say_nothing():
    frames, ended = written(1, [10.0, 10.0, 10.0])
    assert np.isnan(gap_seconds(frames, ended)[0]).all()
    assert chains(np.array([], int), np.array([])).tolist() == []
