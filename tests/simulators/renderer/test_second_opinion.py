"""The renderer against a second tracer, written apart from it in plain NumPy, on the same scene."""

import numpy as np
import pytest

import plain_tracer
from pemlo_simulators.renderer.render import render
from pemlo_simulators.renderer.settings import RenderSettings
from render_bench import spheres

SIZE = (48, 27)


def tiles(picture):
    """Means of tiles of 4 px, (6, 12, 3); the last rows that fill no tile are left out."""
    return picture[:24].reshape(6, 4, 12, 4, 3).mean(axis=(1, 3))


@pytest.fixture(scope="module")
def pictures():
    ours = render(spheres(), RenderSettings("spheres", 1, *SIZE, samples=600)).picture
    halves = [
        np.mean([plain_tracer.render(*SIZE, 75, np.random.default_rng([half, k])) for k in range(4)], axis=0)
        for half in range(2)
    ]
    return ours, halves


def test_every_part_of_the_picture_is_as_bright(pictures):
    ours, halves = pictures
    theirs = tiles(np.mean(halves, axis=0))
    noise = np.abs(tiles(halves[0]) - tiles(halves[1])).mean()
    lit = theirs > 0.01
    assert lit.mean() > 0.6
    assert tiles(ours.colour)[lit] == pytest.approx(theirs[lit], rel=0.06, abs=6 * noise)
    assert tiles(ours.colour)[~lit] == pytest.approx(theirs[~lit], abs=0.01)


def test_all_light_together_is_the_same(pictures):
    ours, halves = pictures
    assert ours.colour.mean() == pytest.approx(np.mean(halves), rel=0.01)


def test_the_colours_are_those_of_the_spheres(pictures):
    """Where one sphere fills a tile, red, green and blue stand to each other as in the other picture."""
    ours, halves = pictures
    a, b = tiles(ours.colour), tiles(np.mean(halves, axis=0))
    lit = b.min(axis=-1) > 0.02
    assert (a[lit] / a[lit].sum(axis=-1, keepdims=True)) == pytest.approx(
        b[lit] / b[lit].sum(axis=-1, keepdims=True), abs=0.02
    )
