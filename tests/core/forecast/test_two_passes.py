"""Two passes over a film, against counting by hand and against the small renderer's own top-up."""

from dataclasses import replace

import numpy as np
import pytest

from film import exact_seconds, exact_trial, make_project, make_shot
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.forecast.two_passes import passes_words, tops_up, two_passes
from pemlo.core.project.machines import Machine
from pemlo.core.project.named_settings import NamedSettings
from pemlo.core.project.settings import ShotSettings
from pemlo_simulators.renderer.render import machine_seconds, render
from pemlo_simulators.renderer.scenes import find_scene
from pemlo_simulators.renderer.settings import RenderSettings

FEW = NamedSettings(name="few", settings=ShotSettings(samples=32))


@pytest.fixture(scope="module")
def known():
    shots = (make_shot("010", 40), make_shot("020", 20))
    trials = tuple(
        exact_trial(shot.name, frame, samples) for shot in shots for frame in (1, 20) for samples in (16, 64, 256)
    )
    project = make_project(shots, trials, (Machine(name="desk"),), deadline="2031-04-21T11:24Z")
    made = fit(fit_input(project))
    return project, made, draw_film(made, project)


def seconds(samples):
    return exact_seconds(make_shot().asked.replace(samples=samples))


def test_it_is_what_hand_counting_says(known):
    found = two_passes(*known, FEW)
    first, once = 60 * seconds(32) / 3600, 60 * seconds(256) / 3600
    saved = 60 * 0.1 * 2.0736 * 32 / 3600  # seconds of a sample and Mpx, Mpx, samples
    assert found.first.middle == pytest.approx(first, rel=0.03)
    assert found.once.middle == pytest.approx(once, rel=0.03)
    assert found.topped_up.middle == pytest.approx(once - saved, rel=0.03)
    assert found.more.middle == pytest.approx(first - saved, rel=0.06)
    assert found.again == found.once
    assert found.noise == pytest.approx(np.sqrt(256 / 32), rel=0.02)
    assert found.first_done_h == pytest.approx(first, rel=0.12)  # at nine in ten


def test_from_which_frame_on_the_second_pass_is_late(known):
    project = known[0]
    found = two_passes(*known, FEW)
    left = 1.4 - found.first_done_h
    each = found.topped_up.middle / 60
    shot, frame = found.cannot
    count = frame - 1 + (40 if shot == "020" else 0)
    assert count == pytest.approx(left / each, abs=6)
    later = two_passes(*known, FEW, approved_h=1.3)
    assert later.cannot[1] < 8
    assert two_passes(project.replace(delivery=project.delivery.replace(deadline="2031-05-21T14:00Z")), *known[1:],
                      FEW).cannot is None  # fmt: skip
    assert f"From frame {frame} of {shot} on" in passes_words(project, found, "Mon 12:00")


def test_what_differs_in_more_than_samples_is_rendered_anew(known):
    half = NamedSettings(name="half", settings=ShotSettings(samples=32, resolution_percent=50))
    found = two_passes(*known, half)
    assert found.not_topped_up == ("010", "020")
    assert found.topped_up == found.again
    assert tops_up(FEW.settings, make_shot().asked)


def test_the_small_renderer_tops_up_at_the_cost_that_is_counted():
    """Tracing of both passes together is that of one; only what comes before and after it is done twice."""
    scene = find_scene("stairs")
    few = RenderSettings(scene.name, 1, 64, 36, samples=12, threads=1)
    many = replace(few, samples=48)
    render(scene, replace(few, width=16, height=9))  # loads and compiles

    def traced(settings, film=None):
        done = render(scene, settings, film=film)
        return machine_seconds(done.clock, 1)["trace"], done

    # Of what was measured a few times the least counts: whatever else the machine does only adds.
    firsts, seconds, wholes = [], [], []
    for _ in range(4):
        first, done = traced(few)
        firsts.append(first)
        seconds.append(traced(many, done.film)[0])
        wholes.append(traced(many)[0])
    assert (min(firsts) + min(seconds)) / min(wholes) == pytest.approx(1.0, abs=0.2)
