"""Shot 010: the harbour at night, wide. Cheap: most of the picture is sky and water."""

import math

import numpy as np

from pemlo.core.arrays import Floats
from pemlo_simulators.renderer.camera import Camera
from pemlo_simulators.renderer.light_stage import Room
from pemlo_simulators.renderer.materials import COAT, MOTTLE, Material, Pattern, coat, matt
from pemlo_simulators.renderer.scene import Scene
from pemlo_simulators.renderer.scenes.props import IRON, LAMPLIGHT, MOONLIGHT, OAK, STONE, glow
from pemlo_simulators.renderer.shapes import Motion, Part

FRAMES = 144
_WALLS = [
    matt(shade, Pattern(MOTTLE, (1.5, 1.5, 1.5), (shade[0] * 0.6, shade[1] * 0.6, shade[2] * 0.6)))
    for shade in ((0.42, 0.3, 0.24), (0.3, 0.36, 0.4), (0.46, 0.42, 0.34), (0.24, 0.3, 0.26), (0.4, 0.22, 0.18))
]
_ROOF = coat((0.11, 0.075, 0.07), 0.5, Pattern(MOTTLE, (0.5, 0.5, 0.5), (0.05, 0.04, 0.045)))
_HULLS = (coat((0.05, 0.1, 0.14), 0.2), coat((0.3, 0.06, 0.04), 0.2), coat((0.5, 0.48, 0.42), 0.25))


def _build(opens: float, closes: float) -> list[Part]:
    middle = (opens + closes) / 2
    shore = Part()
    # The third size of the pattern is where the waves are in their travel.
    swell = Pattern(MOTTLE, (9.0, 9.0, 0.7 + middle / 40), (0.006, 0.02, 0.026))
    water = Material(COAT, (0.004, 0.012, 0.018), 0.05, 1.33, pattern=swell, ripple=0.11, ripple_size=0.8)
    shore.plane((0, 0, 0), (0, 0, 1), water)
    shore.boxes([0, 46, 0.6], [90, 14, 1.0], STONE)
    _add_houses(shore)
    _add_lighthouse(shore)
    _add_quay_lamps(shore)
    shore.spheres([-190, 160, 95], 7.0, glow(MOONLIGHT, 30))
    return [shore, *(_boat(number, opens, closes) for number in range(5))]


def _add_houses(part: Part) -> None:
    random = np.random.default_rng(10)
    windows: dict[int, list[list[float]]] = {0: [], 1: [], 2: []}
    for row, (y, base, low, high) in enumerate(
        ((38.0, 1.6, 4.0, 7.5), (47.0, 1.6, 8.0, 12.0), (57.0, 2.5, 12.0, 17.0))
    ):
        x = -58.0 + 2 * row
        while x < 60:
            width, tall = random.uniform(3.2, 6.0), random.uniform(low, high)
            part.boxes([x + width / 2, y, base + tall / 2], [width / 2, 4, tall / 2], _WALLS[random.integers(5)])
            pitch = math.radians(random.uniform(34, 48))
            half = width / 2 / math.cos(pitch) + 0.15
            for side in (-1, 1):
                slope = np.array([math.cos(pitch), 0, -side * math.sin(pitch)])
                axes = np.stack([slope, [0, 1, 0], np.cross(slope, [0, 1, 0])])
                centre = [x + width / 2 + side * width / 4, y, base + tall + width / 4 * math.tan(pitch)]
                part.boxes(centre, [half / 2, 4.2, 0.1], _ROOF, axes)
            part.boxes([x + 0.8 * width, y + 1, base + tall + 0.35 * width], [0.3, 0.3, 0.9], STONE)
            for floor in np.arange(1.0, tall - 0.8, 2.1):
                for column in np.arange(0.7, width - 0.9, 1.25):
                    spot = [x + column, y - 4.01, base + floor]
                    part.boxes([spot[0] + 0.28, spot[1], spot[2] + 0.4], [0.36, 0.05, 0.48], IRON)
                    if random.random() < 0.34:
                        windows[int(random.integers(3))].append([spot[0], spot[1] - 0.06, spot[2]])
            x += width + random.choice([0.0, 0.0, 0.6])
    for kind, strength in enumerate((0.8, 1.5, 2.8)):
        colour = (1.0, 0.5 + 0.07 * kind, 0.2 + 0.06 * kind)
        part.quads(windows[kind], [0.56, 0, 0], [0, 0, 0.8], glow(colour, strength))


def _add_lighthouse(part: Part) -> None:
    x, y = 33.0, 22.0
    part.cylinders([x, y, -1], [x, y, 1.6], 4.2, STONE)
    for k in range(6):
        shade = (0.5, 0.47, 0.42) if k % 2 else (0.34, 0.08, 0.06)
        part.cylinders([x, y, 1.6 + 2.2 * k], [x, y, 3.8 + 2.2 * k], 2.0 - 0.17 * k, matt(shade))
    part.cylinders([x, y, 14.8], [x, y, 15.1], 1.7, IRON)
    part.spheres([x, y, 16.1], 0.62, glow((1.0, 0.82, 0.5), 120))
    at = np.arange(10) * 2 * math.pi / 10
    posts = np.stack([x + 1.15 * np.cos(at), y + 1.15 * np.sin(at), np.full(10, 15.1)], -1)
    part.capsules(posts, posts + [0, 0, 2.1], 0.05, IRON)
    part.cylinders([x, y, 17.2], [x, y, 17.5], 1.4, IRON)
    part.spheres([x, y, 17.5], 0.85, _ROOF)


def _add_quay_lamps(part: Part) -> None:
    for x in np.arange(-44, 30, 8.5):
        part.capsules([x, 32.6, 1.6], [x, 32.6, 5.0], 0.09, IRON)
        part.spheres([x, 32.6, 5.3], 0.26, glow(LAMPLIGHT, 60))
    x = np.arange(-60, 60, 3.1)
    posts = np.stack([x, np.full_like(x, 32.3), np.zeros_like(x)], -1)
    part.capsules(posts, posts + [0, 0, 2.0], 0.2, OAK)


def _boat(number: int, opens: float, closes: float) -> Part:
    random = np.random.default_rng(number)
    x, y = -27 + 11.5 * number + random.uniform(-2, 2), 21 + random.uniform(-7, 5) - 2 * (number == 1)
    places = [_rocking(x, y, at, number) for at in (opens, closes)]
    part = Part(Motion((places[0], places[1]), (0, 1, 0), (_roll(opens, number), _roll(closes, number))))
    hull, length = _HULLS[number % 3], random.uniform(2.6, 3.8)
    part.capsules([-length, 0, 0.05], [length * 0.8, 0, 0.25], 0.75, hull)
    part.boxes([-0.1 * length, 0, 0.72], [0.75 * length, 0.62, 0.12], OAK)
    part.boxes([-0.35 * length, 0, 1.35], [0.7, 0.55, 0.55], _HULLS[2])
    part.capsules([0.2 * length, 0, 0.6], [0.2 * length, 0, 6.2], 0.07, OAK)
    part.capsules([0.2 * length, 0, 1.7], [-0.7 * length, 0, 2.1], 0.055, OAK)
    for end in ([length * 0.95, 0, 0.8], [-length, 0, 0.8]):
        part.capsules([0.2 * length, 0, 6.0], end, 0.015, IRON)
    part.spheres([0.2 * length, 0, 6.3], 0.11, glow(LAMPLIGHT, 30))
    return part


def _roll(at: float, number: int) -> float:
    return 0.05 * math.sin(at / 17 + number)


def _rocking(x: float, y: float, at: float, number: int) -> tuple[float, float, float]:
    return x + 0.15 * math.sin(at / 31 + number), y, 0.08 * math.sin(at / 13 + 2 * number)


def _camera(at: float) -> Camera:
    share = (at - 1) / (FRAMES - 1)
    return Camera((-13 + 9 * share, -24 + 3 * share, 6.2 - 1.2 * share), (1.5 + 3 * share, 34, 6.0), 52)


def _sky(_at: float) -> Floats:
    return np.array([[0.003, 0.006, 0.016], [0.03, 0.036, 0.05], [0.004, 0.006, 0.01], [1.6, 0.95, 0.85]])


HARBOUR = Scene(
    "harbour", "harbour at night", FRAMES, ("camera", "objects", "simulation"), _build, _camera, _sky,
    Room((-60, -25, -0.5), (60, 62, 22), 60_000), bounces=4, exposure=2.2, cap=10.0,
)  # fmt: skip
