"""Shots 070, 080 and 090: a lamp seen through glass, the tide in its tube, dust in the light before a lens."""

import math

import numpy as np

from pemlo.core.arrays import Floats
from pemlo_simulators.renderer.camera import Camera
from pemlo_simulators.renderer.light_stage import Room
from pemlo_simulators.renderer.materials import Material, glass, matt
from pemlo_simulators.renderer.scene import Scene, dark_sky
from pemlo_simulators.renderer.scenes.props import (
    BRASS,
    CLEAR,
    IVORY,
    MOONLIGHT,
    OAK,
    PLASTER,
    POLISHED,
    STEEL,
    WALNUT,
    add_books,
    add_lantern,
    add_ring,
    glow,
)
from pemlo_simulators.renderer.shapes import Motion, Part

GLASS_FRAMES, TUBE_FRAMES, DUST_FRAMES = 120, 156, 84
_AIR_IN_GLASS = glass(1 / 1.5)
_SEA = glass(1.33 / 1.5, (2.6, 0.55, 0.4))
_SEA_TOP = glass(1.33, (2.6, 0.55, 0.4))
_AMBER = glass(1.5, (0.6, 3.2, 9.0))
_TEAL = glass(1.5, (6.0, 1.2, 1.6))


def _bench(seed: int) -> Part:
    part = Part()
    part.boxes([0, 0.4, -0.05], [2.4, 1.1, 0.05], OAK)
    part.quads([-4, 1.5, -1.5], [8, 0, 0], [0, 0, 5], PLASTER)
    part.boxes([0, 1.32, 0.95], [2.2, 0.16, 0.025], WALNUT)
    add_books(part, (-1.9, 1.3, 0.975), 3.6, 0.42, (1, 0, 0), seed)
    part.quads([-2.0, -2.7, 0.9], [-0.9, 0.8, 0], [0, 0, 1.7], glow(MOONLIGHT, 2.6))
    return part


def _bottle(part: Part, x: float, y: float, radius: float, height: float, material: Material) -> None:
    """Add a bottle: a thick wall of glass with air in it."""
    part.cylinders([x, y, 0.001], [x, y, height], radius, material)
    part.cylinders([x, y, 0.03], [x, y, height - 0.012], 0.88 * radius, _AIR_IN_GLASS)
    part.cylinders([x, y, height], [x, y, height + 0.14], 0.32 * radius, material)
    part.capsules([x, y, height + 0.15], [x, y, height + 0.2], 0.24 * radius, OAK)


def _lamp_glass(opens: float, closes: float) -> list[Part]:
    part = _bench(70)
    _bottle(part, -0.42, -0.1, 0.15, 0.52, _AMBER)
    _bottle(part, 0.04, 0.12, 0.19, 0.66, CLEAR)
    _bottle(part, 0.52, -0.06, 0.13, 0.42, _TEAL)
    part.spheres([0.25, -0.32, 0.1], 0.1, CLEAR)
    part.spheres([-0.15, -0.4, 0.055], 0.055, _AMBER)
    part.spheres([0.68, -0.36, 0.075], 0.075, CLEAR)
    part.cylinders([-0.9, 0.1, 0], [-0.9, 0.1, 0.05], 0.16, BRASS)
    part.capsules([-0.9, 0.1, 0.05], [-0.9, 0.1, 0.5], 0.02, BRASS)
    part.cylinders([0.95, 0.25, 0], [0.95, 0.25, 0.3], 0.12, BRASS)
    lamp = Part(Motion((_behind(opens), _behind(closes))))
    add_lantern(lamp, (0, 0, 0), 0.6, 44)
    return [part, lamp]


def _behind(at: float) -> tuple[float, float, float]:
    share = (at - 1) / (GLASS_FRAMES - 1)
    return 0.75 - 1.2 * share, 0.72 - 0.1 * share, 0.0


def _glass_camera(at: float) -> Camera:
    share = (at - 1) / (GLASS_FRAMES - 1)
    return Camera((-0.22 + 0.45 * share, -1.75, 0.62 - 0.14 * share), (0.05, 0.2, 0.32), 46, 0.008, 1.7)


def _tide(opens: float, closes: float) -> list[Part]:
    middle = (opens + closes) / 2
    level = 0.42 + 0.42 * math.sin(math.pi * (middle - 1) / (TUBE_FRAMES - 1))
    part = _bench(80)
    for x, radius, share in ((0.0, 0.13, 1.0), (-0.5, 0.09, 0.7), (0.5, 0.09, 0.85)):
        part.cylinders([x, 0.1, 0], [x, 0.1, 0.08], 1.5 * radius, BRASS)
        part.cylinders([x, 0.1, 0.0801], [x, 0.1, 1.15], radius, CLEAR)
        part.cylinders([x, 0.1, 0.11], [x, 0.1, level * share], 0.86 * radius, _SEA)
        part.cylinders([x, 0.1, level * share + 1e-4], [x, 0.1, 1.13], 0.86 * radius, _AIR_IN_GLASS)
        part.cylinders([x, 0.1, 1.15], [x, 0.1, 1.2], 1.3 * radius, BRASS)
        marks = np.arange(0.2, 1.1, 0.06)
        points = np.stack([np.full_like(marks, x + 1.25 * radius), np.full_like(marks, 0.02), marks], -1)
        part.boxes(points, [0.035, 0.004, 0.004], STEEL)
        part.boxes([x + 1.25 * radius + 0.04, 0.02, 0.62], [0.006, 0.006, 0.5], BRASS)
        part.spheres([x, 0.1, level * share], 0.4 * radius, POLISHED)
    for k in range(3):
        part.capsules([-0.9 + 0.9 * k, 0.45, 0.2], [-0.9 + 0.9 * k, 0.45, 1.1], 0.03, BRASS)
    part.capsules([-0.95, 0.45, 1.1], [0.95, 0.45, 1.1], 0.03, BRASS)
    add_lantern(part, (1.05, -0.1, 0.0), 0.5, 26)
    part.quads([-1.0, 1.47, 0.1], [2.0, 0, 0], [0, 0, 0.78], glow((0.4, 0.72, 0.75), 0.55))
    return [part]


def _tube_camera(at: float) -> Camera:
    share = (at - 1) / (TUBE_FRAMES - 1)
    return Camera((-0.75 + 1.0 * share, -1.8, 0.75), (0.06, 0.15, 0.58), 46)


def _dust(opens: float, closes: float) -> list[Part]:
    middle = (opens + closes) / 2
    part = _bench(90)
    random = np.random.default_rng(90)
    part.cylinders([0.1, 0.1, 0], [0.1, 0.1, 0.06], 0.24, BRASS)
    part.capsules([0.1, 0.1, 0.06], [0.1, 0.1, 0.2], 0.03, BRASS)
    lens = Part(Motion.still((0.1, 0.1, 0.5), (0, 0, 1), 0.35))
    lens.spheres([0, 0, 0], 0.24, CLEAR)
    add_ring(lens, 0.262, 0.024, POLISHED, 60)
    stand = np.array([[-0.85, 0.35, 0.0], [-1.1, -0.15, 0.0], [-0.6, -0.15, 0.0]])
    part.capsules(stand, np.broadcast_to([-0.85, 0.05, 0.62], (3, 3)), 0.02, STEEL)
    part.cylinders([-1.05, 0.05, 0.66], [-0.6, 0.05, 0.72], 0.09, BRASS)
    part.cylinders([-0.62, 0.05, 0.717], [-0.55, 0.05, 0.727], 0.105, POLISHED)
    part.boxes([0.85, -0.1, 0.012], [0.26, 0.18, 0.012], IVORY)
    part.boxes([0.85, -0.1, 0.03], [0.25, 0.17, 0.006], IVORY)
    part.capsules([0.7, -0.18, 0.05], [1.02, -0.05, 0.05], 0.012, STEEL)
    part.quads([2.3, -1.0, 1.4], [-0.35, 0, 0.7], [0, 0.9, 0], glow((1.0, 0.86, 0.62), 14.0))
    count = 9000
    at = random.uniform([-1.6, -1.2, 0.03], [1.6, 1.2, 1.6], (count, 3))
    drift = random.normal(0, 0.004, (count, 3)) + [0.0, 0.0, 0.0012]
    at = at + drift * middle
    at[:, 2] = np.mod(at[:, 2] - 0.03, 1.57) + 0.03
    motes = Part()
    motes.spheres(at, random.uniform(0.0009, 0.0028, count), matt((0.85, 0.8, 0.7)))
    return [part, lens, motes]


def _dust_camera(at: float) -> Camera:
    share = (at - 1) / (DUST_FRAMES - 1)
    return Camera((0.5 - 0.75 * share, -1.75, 0.85 - 0.1 * share), (0.02, 0.15, 0.42), 48, 0.02, 1.9)


def _sky(_at: float) -> Floats:
    return dark_sky(0.015, 0.02)


_AROUND = Room((-3.2, -2.8, -0.2), (3.2, 1.6, 3.0), 160_000)
LAMP_GLASS = Scene(
    "lamp-glass",
    "lamp through glass",
    GLASS_FRAMES,
    ("camera", "lights", "objects"),
    _lamp_glass,
    _glass_camera,
    _sky,
    _AROUND,
    bounces=14,
    exposure=1.7,
)
TUBE = Scene(
    "tube", "tide in the tube", TUBE_FRAMES, ("camera", "simulation"), _tide, _tube_camera, _sky, _AROUND, bounces=12
)
DUST = Scene(
    "dust",
    "dust and lens",
    DUST_FRAMES,
    ("camera", "objects", "materials"),
    _dust,
    _dust_camera,
    _sky,
    _AROUND,
    bounces=8,
    exposure=2.2,
)
