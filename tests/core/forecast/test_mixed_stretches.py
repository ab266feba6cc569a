"""What frames teach of a film with so many shots and machines that each machine has few frames of a shot."""

import numpy as np
import pytest

from film import make_project, make_shot, well_timed
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.forecast import updated_posterior
from pemlo.core.forecast.completed_frames import CompletedFrames, machine_records
from pemlo.core.forecast.in_common import in_common
from pemlo.core.forecast.mixed_stretches import contrasts, learned_speeds, shares_of
from pemlo.core.forecast.updated_posterior import expected_of, learn
from pemlo.core.project.machines import Machine

FRAMES = 30
SCATTER = 0.05


def film(shots, machines):
    names = [f"{number:03d}" for number in range(shots)]
    trials = [trial for name in names[:: max(1, shots // 20)] for trial in well_timed(name)[:3]]
    made = tuple(Machine(name=f"m{number}") for number in range(machines))
    project = make_project(tuple(make_shot(name, FRAMES) for name in names), tuple(trials), made)
    found = fit(fit_input(project))
    return project, found, draw_film(found, project)


def rendered(known, shots, paces, costs, seed=3):
    """Frames of some shots, each on a machine by chance, that take so many times what is expected of them."""
    project, made, draws = known
    dice = np.random.default_rng(seed)
    shot, frame = (part.ravel() for part in np.meshgrid(shots, np.arange(1, FRAMES + 1), indexing="ij"))
    machine = dice.integers(0, len(paces), len(shot))
    plain = CompletedFrames(
        shot, frame, np.ones(len(shot)), machine, np.arange(len(shot), dtype=float), np.zeros(len(shot), int),
        (project.shots[0].asked,),
    )  # fmt: skip
    expected = expected_of(project, made, draws, plain)
    seconds = expected * costs[shot] / paces[machine] * np.exp(SCATTER * dice.standard_normal(len(shot)))
    return CompletedFrames(
        shot, frame, seconds, machine, np.cumsum(seconds), np.zeros(len(shot), int), plain.rendered_with
    )


@pytest.fixture(scope="module")
def large():
    known = film(120, 40)
    dice = np.random.default_rng(0)
    paces, costs = np.exp(0.15 * dice.standard_normal(40)), np.exp(0.1 * dice.standard_normal(120))
    return known, paces, costs, rendered(known, np.arange(0, 120, 2), paces, costs)


def test_machines_and_shots_are_known_from_frames_that_are_spread_over_both(large):
    known, paces, costs, frames = large
    project, made, _ = known
    found = learn(*known, frames, machine_records(project, frames, 0.0))
    relative = np.median(found.pace, axis=0) / paces
    # Shots and machines share one level; how machines differ is known to about a percent, each from 45 frames.
    assert np.std(np.log(relative)) < 0.02
    at = frames.those(np.ones(len(frames), bool))
    off = np.log(expected_of(project, made, found.draws, at) / np.median(found.pace, axis=0)[at.machine] / at.seconds)
    assert abs(np.median(off)) < 0.02
    assert np.std(off) < 1.5 * SCATTER
    wide = np.log(np.quantile(found.pace, 0.95, axis=0) / np.quantile(found.pace, 0.05, axis=0))
    assert np.median(wide) > 0.01, "no machine is known to the last digit"


def test_shots_that_are_not_in_keep_the_width_that_they_had(large):
    known, _, _, frames = large
    project, _, draws = known
    found = learn(*known, frames, machine_records(project, frames, 0.0))
    for name in ("001", "033", "119"):  # odd ones were not rendered
        before, after = (one[name].factor for one in (draws, found.draws))
        assert np.std(np.log(after)) > 0.5 * np.std(np.log(before))


def test_together_or_each_machine_for_itself_comes_to_the_same(monkeypatch):
    known = film(6, 3)
    dice = np.random.default_rng(1)
    paces, costs = np.array([1.0, 1.3, 0.8]), np.exp(0.1 * dice.standard_normal(6))
    frames = rendered(known, np.arange(6), paces, costs)
    records = machine_records(known[0], frames, 0.0)
    each = learn(*known, frames, records)
    monkeypatch.setattr(updated_posterior, "MOST_TOGETHER", 12)
    together = learn(*known, frames, records)
    one, other = (np.median(found.pace, axis=0) for found in (each, together))
    assert one / one[0] == pytest.approx(other / other[0], rel=0.03)
    expected = [expected_of(known[0], known[1], found.draws, frames) for found in (each, together)]
    assert np.median(expected[0] / expected[1]) == pytest.approx(1.0, abs=0.03)


def test_contrasts_are_those_of_least_squares():
    """Two-way data without chance: what machines differ by is found exactly, as by numpy.linalg.lstsq."""
    dice = np.random.default_rng(2)
    which, machine = (part.ravel() for part in np.meshgrid(np.arange(8), np.arange(5), indexing="ij"))
    level, speed = dice.normal(4, 1, 8), dice.normal(0, 0.2, 5)
    logs = level[which] - speed[machine]
    share = shares_of(which, machine, 5, 8)
    assert share == pytest.approx(np.full((8, 5), 0.2))
    found = contrasts(which, machine, share, logs)
    design = np.zeros((40, 13))
    design[np.arange(40), which], design[np.arange(40), 8 + machine] = 1, -1
    best = np.linalg.lstsq(design, logs, rcond=None)[0][8:]
    offs, _ = learned_speeds(found, np.zeros((4, 5)), np.eye(5), 1e-6, dice)
    assert offs[0] - offs[0].mean() == pytest.approx(best - best.mean(), abs=1e-3)


@pytest.mark.parametrize("common", [0.0, 0.5])
def test_what_shots_have_in_common_is_found_and_chance_is_not(common):
    dice = np.random.default_rng(4)
    levels = np.sqrt(common) * dice.standard_normal((400, 1)) + np.sqrt(1 - common) * dice.standard_normal((400, 300))
    found = in_common(levels)
    assert np.linalg.eigvalsh(found).min() > 0, "a covariance that others are added to must hold"
    apart = (
        found[~np.eye(300, dtype=bool)] / np.sqrt(np.outer(np.diag(found), np.diag(found)))[~np.eye(300, dtype=bool)]
    )
    assert np.median(apart) == pytest.approx(common, abs=0.08)
    if not common:
        assert np.abs(apart).max() < 0.15
