"""Shots 020 and 030: up the observatory, where all is still but the camera; and a lamp carried down the stairs."""

import math

import numpy as np

from pemlo.core.arrays import Floats
from pemlo_simulators.renderer.camera import Camera
from pemlo_simulators.renderer.light_stage import Room
from pemlo_simulators.renderer.materials import metal
from pemlo_simulators.renderer.scene import Scene, dark_sky
from pemlo_simulators.renderer.scenes.props import (
    BRASS,
    FLAGS,
    IRON,
    LAMPLIGHT,
    MOONLIGHT,
    OAK,
    PLASTER,
    POLISHED,
    STEEL,
    STONE,
    WALNUT,
    add_books,
    add_lantern,
    glow,
)
from pemlo_simulators.renderer.shapes import Motion, Part

ROOM_FRAMES, STAIR_FRAMES = 96, 72
_RADIUS = 4.6
_BRONZE = metal((0.3, 0.22, 0.15), 0.45)


def _room(_opens: float, _closes: float) -> list[Part]:
    part = Part()
    part.disc((0, 0, 0), (0, 0, 1), 7.0, FLAGS)
    sides = 40
    for k in range(sides):
        angle = 2 * math.pi * (k + 0.5) / sides
        outward = np.array([math.cos(angle), math.sin(angle), 0.0])
        across = np.array([-outward[1], outward[0], 0.0])
        axes = np.stack([across, outward, [0, 0, 1]])
        part.boxes(outward * (_RADIUS + 0.3) + [0, 0, 2.4], [0.42, 0.15, 2.4], PLASTER, axes)
        if k % 5 == 2:
            part.boxes(outward * (_RADIUS + 0.08) + [0, 0, 2.4], [0.12, 0.12, 2.4], WALNUT, axes)
        else:
            _add_shelves(part, outward, across, k)
        _add_dome(part, angle, axes)
    _add_telescope(part)
    part.cylinders([-1.9, -1.5, 0], [-1.9, -1.5, 0.04], 0.55, WALNUT)
    part.cylinders([-1.9, -1.5, 0.04], [-1.9, -1.5, 0.78], 0.08, WALNUT)
    part.cylinders([-1.9, -1.5, 0.78], [-1.9, -1.5, 0.83], 0.7, WALNUT)
    add_lantern(part, (-1.9, -1.5, 0.83), 0.5, 40)
    add_books(part, (-2.35, -1.2, 0.83), 0.35, 0.26, (1, 0, 0), 4)
    for angle in (0.6, 2.4, 3.9, 5.5):
        spot = (4.3 * math.cos(angle), 4.3 * math.sin(angle), 3.3)
        part.spheres(spot, 0.1, glow(LAMPLIGHT, 16))
        part.cylinders(np.array(spot) - [0, 0, 0.22], np.array(spot) - [0, 0, 0.1], 0.12, BRASS)
    return [part]


def _add_shelves(part: Part, outward: Floats, across: Floats, seed: int) -> None:
    axes = np.stack([across, outward, [0, 0, 1]])
    for level in range(6):
        z = 0.35 + 0.44 * level
        part.boxes(outward * _RADIUS + [0, 0, z], [0.36, 0.16, 0.02], WALNUT, axes)
        start = outward * (_RADIUS - 0.01) - across * 0.34 + [0, 0, z + 0.02]
        add_books(part, (start[0], start[1], start[2]), 0.62, 0.38, (across[0], across[1], 0), 7 * seed + level)


def _add_dome(part: Part, angle: float, axes: Floats) -> None:
    """Add one strip of the dome; a slit over the back of the room stays open."""
    ribs = np.linspace(0.05, 1.5, 12)
    open_side = abs(math.remainder(angle - math.pi / 2, 2 * math.pi)) < 0.16
    outward, across = axes[1], axes[0]
    for k, rise in enumerate(ribs):
        if open_side and rise > 0.35:
            continue
        out = outward * math.cos(rise) + np.array([0, 0, math.sin(rise)])
        up = np.cross(across, out)
        centre = out * (_RADIUS + 0.25) + [0, 0, 4.7]
        width = 0.42 * max(math.cos(rise), 0.06)
        part.boxes(centre, [width, 0.03, 0.36], _BRONZE, np.stack([across, out, up]))
        if k % 3 == 0:
            part.spheres(centre - out * 0.05, 0.03, POLISHED)


def _add_telescope(part: Part) -> None:
    part.cylinders([0.6, 0.4, 0], [0.6, 0.4, 0.25], 0.75, STONE)
    part.cylinders([0.6, 0.4, 0.25], [0.6, 0.4, 1.9], 0.2, IRON)
    part.spheres([0.6, 0.4, 2.05], 0.3, BRASS)
    base, along = np.array([0.55, -0.55, 1.35]), np.array([0.02, 0.72, 0.69])
    along /= np.linalg.norm(along)
    for start, end, radius, material in (
        (0.0, 0.5, 0.13, BRASS),
        (0.5, 1.6, 0.2, WALNUT),
        (1.6, 3.0, 0.26, BRASS),
        (3.0, 3.3, 0.31, POLISHED),
        (-0.25, 0.0, 0.07, POLISHED),
    ):
        part.cylinders(base + start * along, base + end * along, radius, material)
    for at in (0.5, 1.05, 1.6, 2.3):
        part.cylinders(base + (at - 0.03) * along, base + (at + 0.03) * along, 0.28 if at > 1 else 0.22, POLISHED)
    part.capsules(base + [0.24, 0, 0.1], base + 1.5 * along + [0.26, 0, 0.1], 0.035, STEEL)
    part.capsules([0.6, 0.4, 2.05], base + 1.6 * along, 0.06, STEEL)


def _room_camera(at: float) -> Camera:
    share = (at - 1) / (ROOM_FRAMES - 1)
    ease = share * share * (3 - 2 * share)
    return Camera((-0.9 + 0.5 * ease, -3.9, 0.9 + 0.9 * ease), (0.35, 1.6, 1.15 + 2.5 * ease), 66)


def _night(_at: float) -> Floats:
    return np.array([[0.01, 0.02, 0.05], [0.06, 0.08, 0.13], [0.0, 0.0, 0.0], [1.5, 0.95, 0.9]])


OBSERVATORY = Scene(
    "observatory", "up the observatory", ROOM_FRAMES, ("camera",), _room, _room_camera, _night,
    Room((-5, -5, 0), (5, 5, 9.6), 260_000), bounces=7, exposure=4.0,
)  # fmt: skip


def _stairs(opens: float, closes: float) -> list[Part]:
    part = Part()
    part.cylinders([0, 0, -4], [0, 0, 7], 0.42, STONE)
    steps = 46
    for k in range(steps):
        angle, z = -0.26 * k + 2.2, -2.6 + 0.185 * k
        outward = np.array([math.cos(angle), math.sin(angle), 0.0])
        across = np.array([-outward[1], outward[0], 0.0])
        part.boxes(outward * 1.25 + [0, 0, z], [0.9, 0.27, 0.1], STONE, np.stack([outward, across, [0, 0, 1]]))
        rail = outward * 1.98
        part.capsules(rail + [0, 0, z], rail + [0, 0, z + 0.85], 0.016, IRON)
        follow = -0.26 * (k + 1) + 2.2
        beyond = np.array([math.cos(follow), math.sin(follow), 0.0]) * 1.98
        part.capsules(rail + [0, 0, z + 0.85], beyond + [0, 0, z + 1.035], 0.032, OAK)
    for k in range(44):
        angle = 2 * math.pi * k / 44
        outward = np.array([math.cos(angle), math.sin(angle), 0.0])
        if abs(math.remainder(angle + 1.75, 2 * math.pi)) < 0.24:
            continue
        axes = np.stack([[-outward[1], outward[0], 0.0], outward, [0, 0, 1]])
        part.boxes(outward * 2.5 + [0, 0, 1.5], [0.2, 0.16, 5.5], STONE, axes)
    part.quads([-1.2, -2.62, 1.0], [0, 0, 1.6], [1.1, 0, 0], glow(MOONLIGHT, 0.9))
    return [part, _carried_lamp(opens, closes)]


def _lamp_place(at: float) -> tuple[float, float, float]:
    share = (at - 1) / (STAIR_FRAMES - 1)
    step = 21.5 - 7.5 * share
    angle = -0.26 * step + 2.2
    return 1.3 * math.cos(angle), 1.3 * math.sin(angle), -2.6 + 0.185 * step + 0.42 + 0.03 * math.sin(at / 2.5)


def _carried_lamp(opens: float, closes: float) -> Part:
    part = Part(Motion((_lamp_place(opens), _lamp_place(closes))))
    add_lantern(part, (0, 0, -0.3), 0.42, 17)
    return part


def _stair_camera(at: float) -> Camera:
    share = (at - 1) / (STAIR_FRAMES - 1)
    return Camera((-0.5, -2.05, 2.95 - 0.2 * share), (0.35 + 0.25 * share, 0.6, 0.75 - 0.15 * share), 74)


def _dark(_at: float) -> Floats:
    return dark_sky(0.01, 0.01)


STAIRS = Scene(
    "stairs", "lamp on the stairs", STAIR_FRAMES, ("camera", "lights", "objects"), _stairs, _stair_camera, _dark,
    Room((-2.7, -2.7, -4), (2.7, 2.7, 7), 160_000), bounces=7, exposure=4.0,
)  # fmt: skip
