"""The tracer against light that is known in closed form."""

import math

import numpy as np
import pytest

from pemlo_simulators.renderer.camera import Camera
from pemlo_simulators.renderer.light_stage import Room
from pemlo_simulators.renderer.materials import coat, glass, light, matt, metal
from pemlo_simulators.renderer.shapes import Motion, Part
from small_scenes import PLAIN, mean_of, round_room, scene_of, shoot, uniform_sky

LOOKS_DOWN = Camera((0, -0.001, 0.4), (0, 0, 0), 0.6)


def test_a_white_closed_room_has_the_radiance_of_an_integrating_sphere():
    # Each wall sends on albedo x what it gets; the lamp in the middle, (r/R)^2 of the view, swallows its share.
    # Closed form: integrating sphere, e.g. J. Walsh, "Photometry", 1926 (from memory).
    albedo, share, shine = 0.8, 0.2**2, 5.0
    direct = math.pi * shine * share
    radiance = albedo * direct / (1 - albedo * (1 - share)) / math.pi
    mean, error = mean_of(shoot(round_room(albedo), 400, rules=PLAIN._replace(bounces=200)))
    assert abs(mean[1] - radiance) < 4 * error[1] + 1e-9
    assert error[1] < 0.01 * radiance


def test_the_radiance_cache_keeps_the_room_within_two_percent():
    scene = round_room(0.8)
    cached = scene_of(scene.build(1, 1), scene.camera(1), room=Room((-2, -2, -2), (2, 2, 2), 400_000))
    rules = PLAIN._replace(bounces=200)
    plain = mean_of(shoot(scene, 200, rules=rules))[0]
    assert mean_of(shoot(cached, 200, rules=rules._replace(cache_after=2)))[0] == pytest.approx(plain, rel=0.02)


def test_a_white_thing_under_an_even_sky_cannot_be_seen():
    part = Part()
    part.spheres([0, 0, 0], 1, matt((1, 1, 1)))
    mean, error = mean_of(shoot(scene_of([part], Camera((0, -4, 0), (0, 0, 0), 20), uniform_sky(0.7)), 300))
    assert abs(mean[1] - 0.7) < 4 * error[1] + 1e-4


def _floor(*lights) -> Part:
    part = Part()
    part.plane((0, 0, 0), (0, 0, 1), matt((0.6, 0.6, 0.6)))
    for add in lights:
        add(part)
    return part


@pytest.mark.parametrize("hole", [0.0, 0.3])
def test_a_disc_over_a_floor(hole):
    # Irradiance below the middle of a disc: pi L R^2 / (R^2 + h^2) (any radiometry text; from memory).
    def disc(part):
        part.disc((0, 0, 1.5), (0, 0, -1), 0.8, light((3, 3, 3)), hole)

    def sent(radius):
        return math.pi * 3 * radius**2 / (radius**2 + 1.5**2)

    mean, error = mean_of(shoot(scene_of([_floor(disc)], LOOKS_DOWN), 600, rules=PLAIN._replace(bounces=1)))
    expected = 0.6 * (sent(0.8) - sent(hole)) / math.pi
    assert abs(mean[0] - expected) < 4 * error[0] + 0.002 * expected


def test_a_ball_over_a_floor():
    # Irradiance from a ball that is all above the horizon: pi L (r/d)^2.
    def ball(part):
        part.spheres([0, 0, 2], 0.5, light((4, 4, 4)))

    mean, error = mean_of(shoot(scene_of([_floor(ball)], LOOKS_DOWN), 600, rules=PLAIN._replace(bounces=1)))
    expected = 0.6 * 4 * (0.5 / 2) ** 2
    assert abs(mean[0] - expected) < 4 * error[0] + 0.002 * expected


def test_a_rectangle_sends_what_a_part_of_it_sends_and_the_rest():
    def square(x0, x1):
        def add(part):
            part.quads([x0, -0.5, 1.2], [0, 1, 0], [x1 - x0, 0, 0], light((2, 2, 2)))

        return add

    def floor(*lights):
        return mean_of(shoot(scene_of([_floor(*lights)], LOOKS_DOWN), 800, rules=PLAIN._replace(bounces=1)))

    whole, halves = floor(square(-0.5, 0.5)), floor(square(-0.5, 0.1), square(0.1, 0.5))
    assert abs(whole[0, 0] - halves[0, 0]) < 4 * math.hypot(whole[1, 0], halves[1, 0])
    assert whole[0, 0] > 0.1


def test_sampled_and_unsampled_lights_agree():
    # A box shines but is not sampled directly: all of its light must come by scattering.
    def box(part):
        part.boxes([0, 0, 1.5], [0.5, 0.5, 0.001], light((2, 2, 2)))

    def square(part):
        part.quads([-0.5, -0.5, 1.499], [0, 1, 0], [1, 0, 0], light((2, 2, 2)))

    found, lucky = (
        mean_of(shoot(scene_of([_floor(add)], LOOKS_DOWN), 1500, rules=PLAIN._replace(bounces=1)))
        for add in (square, box)
    )
    assert abs(found[0, 0] - lucky[0, 0]) < 4 * math.hypot(found[1, 0], lucky[1, 0])
    assert lucky[1, 0] > 3 * found[1, 0]


@pytest.mark.parametrize("roughness", [0.1, 0.3, 0.6, 0.9])
def test_white_metal_gives_back_all_light(roughness):
    part = Part()
    part.spheres([0, 0, 0], 1, metal((1, 1, 1), roughness))
    mean, _ = mean_of(shoot(scene_of([part], Camera((0, -6, 0), (0, 0, 0), 8), uniform_sky(1.0)), 600))
    assert mean[0] == pytest.approx(1.0, abs=0.01)


def test_clear_glass_gives_back_all_light():
    part = Part()
    part.spheres([0, 0, 0], 1, glass(1.5))
    film = shoot(
        scene_of([part], Camera((0, -6, 0), (0, 0, 0), 14), uniform_sky(1.0)), 400, rules=PLAIN._replace(bounces=40)
    )
    assert mean_of(film)[0] == pytest.approx(np.ones(3), abs=0.01)


def test_a_coat_never_gives_back_more_than_it_gets():
    part = Part()
    part.spheres([0, 0, 0], 1, coat((1, 1, 1), 0.2))
    mean, error = mean_of(shoot(scene_of([part], Camera((0, -6, 0), (0, 0, 0), 8), uniform_sky(1.0)), 300))
    assert 0.8 < mean[0] < 1.0 + 4 * error[0]


def test_glass_swallows_light_along_its_depth():
    # Beer and Lambert: exp(-a d); a straight look through 2 m of glass of index 1 meets no mirror.
    part = Part()
    part.boxes([0, 0, 0], [5, 1, 5], glass(1.0, (0.1, 0.5, 1.0)))
    mean, _ = mean_of(shoot(scene_of([part], Camera((0, -6, 0), (0, 0, 0), 1), uniform_sky(1.0)), 4))
    assert mean == pytest.approx(np.exp([-0.2, -1.0, -2.0]), rel=0.01)


def _lopsided(sign: float) -> list[Part]:
    part = _floor()
    part.boxes([sign * 0.8, 0.4, 0.3], [0.2, 0.3, 0.3], matt((0.8, 0.2, 0.1)))
    part.spheres([-sign * 0.5, 0.2, 0.3], 0.3, metal((0.9, 0.8, 0.5), 0.3))
    part.quads([sign * 1.0, -1, 2], [0, 0.8, 0], [sign * 0.4, 0, 0] if sign > 0 else [0.0001, 0, 0], matt((0, 0, 0)))
    part.spheres([sign * 1.2, -0.6, 1.8], 0.3, light((9, 9, 9)))
    return [part]


def test_a_mirrored_scene_gives_a_mirrored_picture():
    films = [shoot(scene_of(_lopsided(sign), Camera((0, -3, 1), (0, 0, 0.4), 60)), 512, (24, 16)) for sign in (1, -1)]
    here, there = (film.light[..., :3] / film.taken[..., None] for film in films)
    noise = np.sqrt((films[0].light[..., 3:] / 512 - here**2) / 512)
    off = (here - there[:, ::-1]) / (math.sqrt(2) * noise + 1e-3)
    assert np.sqrt((off**2).mean()) < 1.3
    assert np.abs(here - here[:, ::-1]).mean() > 10 * np.abs(here - there[:, ::-1]).mean()


def test_a_moving_thing_covers_each_place_for_its_share_of_the_shutter():
    # A bright plate of width 1 moves by 1 past a narrow view: it is there half of the time.
    part = Part(Motion(((-0.5, 0, 0), (0.5, 0, 0))))
    part.quads([0, 0, -1], [1, 0, 0], [0, 0, 2], light((1, 1, 1)))
    mean, _ = mean_of(shoot(scene_of([part], Camera((0, -3, 0), (0, 0, 0), 0.01)), 4000, (2, 2)))
    assert mean[0] == pytest.approx(0.5, abs=0.02)


def test_what_is_out_of_focus_spreads_and_loses_no_light():
    part = Part()
    part.disc((0, 2, 0), (0, -1, 0), 0.1, light((1, 1, 1)))
    sharp, soft = (
        shoot(scene_of([part], Camera((0, 0, 0), (0, 1, 0), 40, radius, 1.0)), 400, (32, 32)) for radius in (0.0, 0.1)
    )
    assert mean_of(soft)[0][0] == pytest.approx(mean_of(sharp)[0][0], rel=0.05)
    assert (soft.light[..., 0] > 0).sum() > 2 * (sharp.light[..., 0] > 0).sum()
