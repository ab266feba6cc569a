"""Damaged picture files never do worse than an error: a short run of the fuzzer, in its own process."""

import random

import numpy as np
import pytest

import fuzz
import fuzz_pictures
from film import make_project, make_shot, well_timed
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.cost.next_trial import advise
from pemlo.core.forecast.verdict import forecast
from pemlo.core.project.trials import Trial
from pemlo.core.trade.film_options import evaluate_film_options
from pemlo.core.trade.planning import plan_film
from pemlo.gui.trials.trial_columns import TRIAL_COLUMNS, trial_rows
from pemlo.words.verdicts import headline


def test_damaged_files_are_read_or_refused(capfd):
    assert fuzz_pictures.main(0.0, at_least=60) == 0
    said = capfd.readouterr().out
    files, refused = int(said.split()[0]), int(said.split("read, ")[1].split()[0])
    assert files == 60
    assert 0 < refused < files


def test_damage_changes_the_file():
    dice = random.Random(1)
    data = bytes(range(200))
    assert all(fuzz_pictures.damage(data, dice) != data for _ in range(50))


@pytest.mark.parametrize(
    ("kind", "count"),
    [
        ("documents", 300),
        ("tables", 300),
        ("kept", 40),
        ("films", 12),
        ("logs", 150),
        ("stores", 40),
        ("headers", 400),
        ("places", 400),
        ("lines", 400),
        ("names", 300),
    ],
)
def test_whatever_is_damaged_or_absurd_ends_in_words(capfd, kind, count):
    assert fuzz.main(count, kind) == 0
    assert f"{kind}: {count} inputs" in capfd.readouterr().out


ADAPTIVE = {"samples": 512, "min_samples": 16, "noise_threshold": 0.01}
# Trials that may stand in a document and that once ended in an exception.
FOUND = {
    "samples that no renderer takes": {**ADAPTIVE, "mean_samples": 1e-300},
    "a stage that is nothing beside the whole": {"samples": 16, "seconds": 1e10, "prepare_seconds": 1e-300},
    "noise out of all bounds": {"samples": 16, "noise_shape": (1e308, -1e308)},
    "noise so far apart that it has no exponential": {"samples": 16, "noise_shape": (-700.0, 700.0)},
    "a threshold at its most": {**ADAPTIVE, "noise_threshold": 1e6},
    "a frame far outside the shot": {**ADAPTIVE, "frame": 10_000_000, "noise_shape": (-1.0, 0.0, 1.0)},
    "seconds at their least": {"samples": 16, "seconds": 1e-300},
    "next to nothing of a frame": {"samples": 16, "region_percent": 1e-300},
}


@pytest.mark.filterwarnings("ignore::RuntimeWarning")
@pytest.mark.parametrize("what", FOUND)
@pytest.mark.parametrize("alone", [True, False])
def test_absurd_trials_that_were_found(what, alone):
    fields = {"shot": "010", "frame": 5, "seconds": 60.0, **FOUND[what]}
    odd = Trial(**fields)
    shot = make_shot("010", **{name: fields[name] for name in ADAPTIVE if name in fields})
    project = make_project(shots=(shot,), trials=(odd,) if alone else (odd, *well_timed()))
    known = fit(fit_input(project))
    draws = draw_film(known, project)
    found = forecast(project, known, draws)
    assert headline(project, found)
    assert np.isfinite([found.hours.low, found.hours.high]).all()
    assert len(advise(known, project)) <= 1
    options = evaluate_film_options(project, (known, draws), {})
    assert plan_film(project, options, "hours", (known, draws)).plan.chosen
    for column in TRIAL_COLUMNS:
        for row in trial_rows(project, "010", known):
            assert isinstance(column.text(row), str)


def test_each_kind_finds_what_is_wrong(capfd):
    def wrong(dice):
        raise ZeroDivisionError

    assert fuzz.run("films", wrong, 3, 0) == 3
    assert "films, seed 1: ZeroDivisionError()" in capfd.readouterr().out
