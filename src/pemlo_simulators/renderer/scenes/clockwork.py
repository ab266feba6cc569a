"""Shots 040, 050, 060 and 100: the clock of the tides, its pendulum, its wheels, and the hour that it strikes."""

import math

from pemlo.core.arrays import Floats
from pemlo_simulators.renderer.camera import Camera
from pemlo_simulators.renderer.light_stage import Room
from pemlo_simulators.renderer.scene import Scene, dark_sky
from pemlo_simulators.renderer.scenes.props import (
    BRASS,
    CLEAR,
    IRON,
    IVORY,
    LAMPLIGHT,
    MOONLIGHT,
    OAK,
    PLASTER,
    POLISHED,
    STEEL,
    WALNUT,
    add_books,
    add_dial,
    add_hand,
    add_lantern,
    add_ring,
    add_wheel,
    glow,
)
from pemlo_simulators.renderer.shapes import Motion, Part

CLOCK_FRAMES, PENDULUM_FRAMES, WHEEL_FRAMES, STRIKE_FRAMES = 168, 60, 132, 172
_RATE = 24.0
_UPRIGHT = (0.0, -1.0, 0.0)  # the axis of everything that turns in the clock: clockwise from the front


def _turning(
    centre: tuple[float, float, float], opens: float, closes: float, turns_a_second: float, start: float
) -> Motion:
    angles = tuple(start + 2 * math.pi * turns_a_second * at / _RATE for at in (opens, closes))
    return Motion((centre, centre), _UPRIGHT, (angles[0], angles[1]))


def _case() -> Part:
    """Return the clock's wooden case with its dial, on a table before a wall."""
    part = Part()
    part.quads([-4, 1.3, -1], [8, 0, 0], [0, 0, 6], PLASTER)
    part.boxes([0, 0.2, -0.06], [2.6, 1.3, 0.06], OAK)
    part.boxes([0, 0.45, 0.1], [0.72, 0.34, 0.1], WALNUT)
    part.boxes([0, 0.45, 0.23], [0.64, 0.3, 0.05], WALNUT)
    part.boxes(
        [[-0.55, 0.5, 0.95], [0.55, 0.5, 0.95], [0, 0.72, 0.95]],
        [[0.07, 0.22, 0.7], [0.07, 0.22, 0.7], [0.55, 0.03, 0.7]],
        WALNUT,
    )
    part.boxes([0, 0.48, 1.7], [0.68, 0.28, 0.05], WALNUT)
    part.boxes([0, 0.48, 1.78], [0.56, 0.22, 0.05], WALNUT)
    part.capsules([[-0.55, 0.25, 0.3], [0.55, 0.25, 0.3]], [[-0.55, 0.25, 1.62], [0.55, 0.25, 1.62]], 0.035, BRASS)
    part.spheres([[-0.55, 0.48, 1.88], [0.55, 0.48, 1.88]], 0.06, POLISHED)
    part.spheres([[-0.55, 0.25, 0.28], [0.55, 0.25, 0.28], [-0.55, 0.25, 1.64], [0.55, 0.25, 1.64]], 0.055, POLISHED)
    return part


def _dial(centre: tuple[float, float, float], radius: float) -> Part:
    part = Part(Motion.still(centre))
    add_dial(part, radius)
    return part


def _hands(centre: tuple[float, float, float], radius: float, opens: float, closes: float, start: float) -> list[Part]:
    hour = Part(_turning(centre, opens, closes, 1 / 1200, start / 12))
    add_hand(hour, 0.5 * radius, 0.02 * radius, STEEL, -0.02)
    minute = Part(_turning(centre, opens, closes, 1 / 100, start))
    add_hand(minute, 0.78 * radius, 0.014 * radius, STEEL, -0.035)
    return [hour, minute]


def _pendulum(centre: tuple[float, float, float], length: float, opens: float, closes: float) -> Part:
    swing = tuple(0.2 * math.sin(2 * math.pi * at / 40) for at in (opens, closes))
    part = Part(Motion((centre, centre), _UPRIGHT, (swing[0], swing[1])))
    part.capsules([0, 0, 0], [0, 0, -length], 0.012, STEEL)
    part.cylinders([0, -0.025, -length], [0, 0.025, -length], 0.15, POLISHED)
    part.cylinders([0, -0.032, -length], [0, -0.02, -length], 0.1, BRASS)
    part.spheres([0, -0.03, -length], 0.035, STEEL)
    return part


def _table_things(part: Part) -> None:
    add_lantern(part, (-1.25, -0.1, 0.0), 0.62, 26)
    add_books(part, (0.95, 0.55, 0.0), 0.8, 0.42, (1, 0, 0), 41)
    part.cylinders([1.1, -0.35, 0], [1.1, -0.35, 0.03], 0.2, BRASS)
    part.capsules([1.1, -0.35, 0.03], [1.1, -0.35, 0.4], 0.015, BRASS)
    part.spheres([1.1, -0.35, 0.5], 0.12, CLEAR)
    part.cylinders([-0.9, -0.62, 0], [-0.9, -0.62, 0.02], 0.1, IVORY)
    part.capsules([0.55, -0.7, 0.02], [0.95, -0.62, 0.02], 0.018, STEEL)


def _key(part: Part, strength: float = 1.0) -> None:
    """Add the moon's window light from the left and a weak warm one from behind the camera."""
    part.quads([-2.6, -3.4, 1.2], [-0.9, 0.9, 0], [0, 0, 1.7], glow(MOONLIGHT, 3.2 * strength))
    part.quads([1.0, -3.2, 2.4], [0, 0.4, 0.6], [1.2, 0.5, 0], glow(LAMPLIGHT, 3.0 * strength))


def _clock(opens: float, closes: float) -> list[Part]:
    case = _case()
    _table_things(case)
    _key(case)
    centre = (0.0, 0.3, 1.2)
    return [
        case,
        _dial(centre, 0.42),
        *_hands(centre, 0.42, opens, closes, 1.1),
        _pendulum((0, 0.42, 0.95), 0.48, opens, closes),
    ]


def _clock_camera(at: float) -> Camera:
    share = (at - 1) / (CLOCK_FRAMES - 1)
    angle = -0.42 + 0.7 * share
    return Camera((2.7 * math.sin(angle), 0.3 - 2.75 * math.cos(angle), 1.35), (0.0, 0.35, 0.98), 47, 0.012)


def _strike(opens: float, closes: float) -> list[Part]:
    case = _case()
    _table_things(case)
    _key(case, 1.2)
    centre = (0.0, 0.3, 1.2)
    bell = Part(Motion.still((0.0, 0.45, 1.95)))
    bell.spheres([0, 0, 0.1], 0.2, POLISHED)
    bell.cylinders([0, 0, -0.02], [0, 0, 0.02], 0.23, BRASS)
    bell.capsules([0, 0, -0.14], [0, 0, -0.02], 0.02, STEEL)
    beat = [max(0.0, math.sin(2 * math.pi * at / 24)) ** 3 for at in (opens, closes)]
    hammer = Part(Motion(((0.42, 0.42, 1.85),) * 2, _UPRIGHT, (-0.75 * beat[0], -0.75 * beat[1])))
    hammer.capsules([0, 0, 0], [-0.05, 0, 0.26], 0.018, STEEL)
    hammer.capsules([-0.12, 0, 0.28], [0.02, 0, 0.28], 0.045, IRON)
    return [
        case, bell, hammer, _dial(centre, 0.42), *_hands(centre, 0.42, opens, closes, -0.35),
        _pendulum((0, 0.42, 0.95), 0.48, opens, closes),
    ]  # fmt: skip


def _strike_camera(at: float) -> Camera:
    share = (at - 1) / (STRIKE_FRAMES - 1)
    ease = share * share * (3 - 2 * share)
    return Camera((0.55 - 0.5 * ease, -1.0 - 1.9 * ease, 1.75 - 0.2 * ease), (0.02, 0.4, 1.72 - 0.62 * ease), 46)


# name: centre, radius, teeth, turns a second, start: the teeth of neighbours pass each other at one speed.
_TRAIN = (
    ((0.0, 0.3, 1.0), 0.44, 64, 0.9, 0.0),
    ((0.63, 0.34, 1.13), 0.2, 29, -1.99, 0.11),
    ((-0.52, 0.36, 0.66), 0.2, 29, -1.99, 0.05),
    ((0.66, 0.44, 1.62), 0.28, 41, 1.41, 0.02),
    ((-0.66, 0.44, 1.46), 0.36, 52, -1.11, 0.03),
    ((0.7, 0.46, 0.55), 0.3, 44, 1.31, 0.0),
)


def _wheels(opens: float, closes: float, speed: float = 1.0) -> list[Part]:
    frame = Part()
    frame.boxes([0, 0.62, 1.0], [1.5, 0.03, 1.15], BRASS)
    for x, z in ((-1.15, 0.1), (1.15, 0.1), (-1.15, 1.95), (1.15, 1.95)):
        frame.capsules([x, 0.05, z], [x, 0.62, z], 0.05, POLISHED)
    frame.boxes([[0, 0.12, 0.16], [0, 0.12, 1.93]], [1.3, 0.02, 0.06], STEEL)
    frame.quads([-4, 1.6, -1], [8, 0, 0], [0, 0, 5], PLASTER)
    _key(frame, 2.2)
    frame.spheres([-0.95, -0.5, 0.35], 0.07, glow(LAMPLIGHT, 22))
    wheels = [frame]
    for k, (centre, radius, teeth, turns, start) in enumerate(_TRAIN):
        wheel = Part(_turning(centre, opens, closes, turns * speed, start))
        add_wheel(wheel, radius, teeth, (POLISHED, BRASS, STEEL)[k % 3] if k else BRASS, 4 + k % 3)
        wheels.append(wheel)
    return wheels


def _wheel_camera(at: float) -> Camera:
    share = (at - 1) / (WHEEL_FRAMES - 1)
    return Camera((-0.75 + 0.5 * share, -1.5, 1.25 + 0.1 * share), (0.04, 0.4, 1.03), 50)


def _close(opens: float, closes: float) -> list[Part]:
    wheels = _wheels(opens, closes, 0.12)
    bob = _pendulum((0.1, -0.1, 1.9), 0.92, opens, closes)
    add_ring(bob, 0.02, 0.004, STEEL, 24)
    return [*wheels, bob]


def _close_camera(at: float) -> Camera:
    share = (at - 1) / (PENDULUM_FRAMES - 1)
    return Camera((-0.32 + 0.1 * share, -1.05, 1.12), (0.06, 0.1, 1.0), 40, 0.035, 0.96)


def _sky(_at: float) -> Floats:
    return dark_sky(0.012, 0.02)


_AROUND = Room((-3.6, -3.6, -0.2), (3.6, 1.7, 3.6), 160_000)
CLOCK = Scene(
    "clock", "the brass clock", CLOCK_FRAMES, ("camera", "objects"), _clock, _clock_camera, _sky, _AROUND, exposure=2.6
)
PENDULUM = Scene(
    "pendulum",
    "pendulum, close",
    PENDULUM_FRAMES,
    ("camera", "objects"),
    _close,
    _close_camera,
    _sky,
    _AROUND,
    exposure=1.6,
)
WHEELS = Scene(
    "wheels", "wheels turning", WHEEL_FRAMES, ("camera", "objects"), _wheels, _wheel_camera, _sky, _AROUND, exposure=1.3
)
STRIKE = Scene(
    "strike",
    "the hour strikes",
    STRIKE_FRAMES,
    ("camera", "objects"),
    _strike,
    _strike_camera,
    _sky,
    _AROUND,
    exposure=2.6,
)
