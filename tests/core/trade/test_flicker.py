"""A plan keeps below the error that passes and below the flicker that passes. Three cases by hand first."""

from dataclasses import replace

import numpy as np
import pytest

from film import make_project, well_timed
from looks import look
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.predict.flicker import MeasuredFlicker, flicker_model
from pemlo.core.project.trials import GOOD
from pemlo.core.trade.best_plan import PlanRequest, best_plan
from pemlo.core.trade.options import options_of
from pemlo.words.plans import flicker_words

FRAME, AROUND = "frame", "neighbours 4 1"


def timed(*, moves=("objects",), allows=(), mark=""):
    """A shot of 256 samples; both ways of denoising were timed at few samples, and leave little error."""
    plain = well_timed("010")
    denoised = [
        one.replace(denoise=name, seconds=one.seconds + extra, seed=7, mark=mark if name == FRAME else "")
        for name, extra in ((FRAME, 4.0), (AROUND, 9.0))
        for one in well_timed("010", frames=(50,))[:2]
    ]
    project = make_project(trials=(*plain, *denoised))
    shot = project.shots[0].replace(moves=moves, allows=allows)
    project = project.replace(shots=(shot, *project.shots[1:]))
    known = fit(fit_input(project))
    return project, known, draw_film(known, project), shot


def looking(sd=0.28, measured=()):
    """A look of which denoised pictures err far less than plain ones, so that the error alone allows them."""
    found = look(sd, denoisers=(FRAME, AROUND))
    model = replace(found.error_model, flicker=flicker_model(measured))
    return replace(found, error_model=model)


def quickest(film, appearance):
    """Return the settings with the fewest hours that pass, and the shot's options."""
    project, known, draws, shot = film
    options = options_of(project, known, draws, shot.replace(ceiling=6.0), appearance)
    plan = best_plan([options], PlanRequest("hours", 1000.0, 0.9))
    return options.settings[plan.chosen[0]], options, plan


def test_denoising_frame_by_frame_boils_and_is_no_plan_though_its_error_passes():
    """By hand: grain of 6 levels passes, so flicker of 6 / 8; 16 samples have grain of nearly 20, of which a denoiser
    of single frames leaves 0.9 in blocks: 0.9 × 18 / 8 is over 2."""
    measured = [MeasuredFlicker(FRAME, 0.9, 1.0), MeasuredFlicker(AROUND, 0.2, 1.0)]
    settings, options, plan = quickest(timed(), looking(measured=measured))
    boiling = options.place(options.settings[0].replace(samples=16, denoise=FRAME))
    assert options.error[boiling] < options.ceiling
    assert options.flicker[boiling] > 2.0 > options.flicker_limit == pytest.approx(0.75)
    assert not options.usable[boiling]
    assert settings.denoise == AROUND  # a fifth in blocks: that passes with fewer samples
    assert options.flicker[plan.chosen[0]] <= options.flicker_limit
    assert flicker_words([options], plan) == f"010 {options.flicker[plan.chosen[0]]:.2f} of 0.75 levels"


def test_where_nothing_moves_or_it_is_allowed_the_error_alone_decides():
    measured = [MeasuredFlicker(FRAME, 0.9, 1.0), MeasuredFlicker(AROUND, 0.2, 1.0)]
    for film in (timed(moves=()), timed(allows=("denoise",))):
        settings, options, _ = quickest(film, looking(measured=measured))
        assert settings.denoise == FRAME
        assert np.isnan(options.flicker_limit)


def test_what_was_asked_for_and_what_was_marked_good_passes_as_it_flickers():
    measured = [MeasuredFlicker(FRAME, 0.9, 1.0)]
    project, known, draws, shot = timed(mark=GOOD)
    options = options_of(project, known, draws, shot, looking(measured=measured))
    marked = [k for k, one in enumerate(options.settings) if one.denoise == FRAME and options.usable[k]]
    assert marked
    assert options.flicker_limit > 0.75
    asked = shot.replace(asked=shot.asked.replace(samples=16, denoise=FRAME))
    film = timed()
    options = options_of(*film[:3], asked, looking(measured=measured))
    assert options.usable[0]
    assert options.flicker_limit == pytest.approx(options.flicker[0])


def test_what_nobody_measured_is_assumed_by_its_kind_and_said():
    _, options, plan = quickest(timed(), looking())
    assert set(options.flicker_assumed) == {FRAME, AROUND}
    assert "assumed" in flicker_words([options], plan)


def test_plain_grain_that_passes_passes_in_motion_too():
    """The limit is what plain grain at the ceiling has: without a denoiser flicker never takes an option away."""
    project, known, draws, shot = timed()
    options = options_of(project, known, draws, shot.replace(ceiling=6.0), looking())
    plain = np.array([one.denoise == "none" and one.resolution_percent >= 100 for one in options.settings])
    passing = plain & (options.error <= options.ceiling)
    assert passing.sum() > 5
    assert (options.flicker[passing] <= options.flicker_limit * 1.001).all()
