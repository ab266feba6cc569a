"""Things that stand in several scenes, and the materials that the film uses. Metres; the third axis points up."""

import math

import numpy as np

from pemlo.core.arrays import Floats
from pemlo_simulators.renderer.materials import GRAIN, LINES, MOTTLE, Material, Pattern, coat, glass, light, matt, metal
from pemlo_simulators.renderer.shapes import Part, Point

BRASS = metal((0.87, 0.66, 0.34), 0.32, Pattern(MOTTLE, (0.06, 0.06, 0.06), (0.62, 0.42, 0.2)))
POLISHED = metal((0.92, 0.72, 0.4), 0.16)
STEEL = metal((0.55, 0.57, 0.6), 0.34)
IRON = metal((0.2, 0.2, 0.21), 0.5)
WALNUT = coat((0.2, 0.1, 0.055), 0.28, Pattern(GRAIN, (0.9, 0.05, 0.05), (0.075, 0.035, 0.02)))
OAK = coat((0.34, 0.21, 0.11), 0.4, Pattern(GRAIN, (0.06, 0.9, 0.06), (0.17, 0.09, 0.045)))
STONE = matt((0.36, 0.34, 0.31), Pattern(LINES, (0.9, 0.9, 0.42), (0.15, 0.14, 0.13)))
PLASTER = matt((0.3, 0.36, 0.36), Pattern(MOTTLE, (0.8, 0.8, 0.8), (0.18, 0.24, 0.26)))
FLAGS = coat((0.2, 0.19, 0.18), 0.42, Pattern(MOTTLE, (0.3, 0.3, 0.3), (0.1, 0.1, 0.105)))
IVORY = coat((0.78, 0.71, 0.56), 0.3, Pattern(MOTTLE, (0.15, 0.15, 0.15), (0.62, 0.54, 0.4)))
INK = coat((0.02, 0.022, 0.03), 0.25)
CLEAR = glass(1.5, (0.4, 0.2, 0.3))
LAMPLIGHT = (1.0, 0.6, 0.26)
MOONLIGHT = (0.5, 0.68, 1.0)


def glow(colour: Point, strength: float) -> Material:
    """Return a light of a colour."""
    return light((colour[0] * strength, colour[1] * strength, colour[2] * strength))


def upright(angles: Floats) -> Floats:
    """Return box axes for pieces of wheels that stand upright and face the second axis: outward, across, deep.

    Parameters
    ----------
    angles : (N,) ndarray
        Around the second axis, from the first one upward.

    Returns
    -------
    (N, 3, 3) ndarray
    """
    c, s, zero = np.cos(angles), np.sin(angles), np.zeros_like(angles)
    outward, across = np.stack([c, zero, s], axis=-1), np.stack([-s, zero, c], axis=-1)
    return np.stack([outward, across, np.broadcast_to([0.0, 1.0, 0.0], outward.shape)], axis=1)


def around(radius: float, angles: Floats, depth: float = 0.0) -> Floats:
    """Return points on an upright circle about the part's origin, (N, 3)."""
    return np.stack([radius * np.cos(angles), np.full_like(angles, depth), radius * np.sin(angles)], axis=-1)


def add_wheel(
    part: Part, radius: float, teeth: int, material: Material, spokes: int = 5, depth: float = 0.02, y: float = 0.0
) -> None:
    """Add a toothed wheel that stands upright about the part's origin."""
    step = 2 * math.pi / teeth
    pitch = radius * step
    at = np.arange(teeth, dtype=float) * step
    rim = 0.12 * radius
    halves = [rim / 2, 0.62 * (radius - rim / 2) * step, depth]
    part.boxes(around(radius - rim / 2, at, y), halves, material, upright(at))
    part.boxes(around(radius + 0.28 * pitch, at, y), [0.34 * pitch, 0.24 * pitch, depth], material, upright(at))
    arms = np.arange(spokes) * 2 * math.pi / spokes + 0.3
    inner = 0.16 * radius
    part.boxes(
        around((radius - rim + inner) / 2, arms, y),
        [(radius - rim - inner) / 2 + 0.01 * radius, 0.055 * radius, 0.7 * depth],
        material,
        upright(arms),
    )
    part.cylinders([0, y - 1.5 * depth, 0], [0, y + 1.5 * depth, 0], 0.2 * radius, material)
    part.cylinders([0, y - 2.6 * depth, 0], [0, y + 2.2 * depth, 0], 0.07 * radius, STEEL)
    screws = arms + math.pi / spokes
    part.spheres(around(0.135 * radius, screws, y - 1.5 * depth), 0.022 * radius, STEEL)


def add_ring(part: Part, radius: float, thick: float, material: Material, pieces: int = 72, y: float = 0.0) -> None:
    """Add an upright round ring of rods about the part's origin."""
    at = np.arange(pieces + 1) * 2 * math.pi / pieces
    points = around(radius, at, y)
    part.capsules(points[:-1], points[1:], thick, material)


def add_dial(part: Part, radius: float, y: float = 0.0) -> None:
    """Add a clock's face, upright about the part's origin and seen from the front (smaller second coordinate)."""
    part.disc((0, y, 0), (0, -1, 0), radius, IVORY)
    add_ring(part, radius, 0.035 * radius, POLISHED, y=y)
    add_ring(part, 0.78 * radius, 0.006 * radius, BRASS, 90, y - 0.004)
    for marks, length, width in ((60, 0.03, 0.006), (12, 0.075, 0.017)):
        at = np.arange(marks) * 2 * math.pi / marks
        part.boxes(
            around((0.9 - length / 2) * radius, at, y - 0.006),
            [length * radius, width * radius, 0.006],
            INK if marks == 12 else BRASS,
            upright(at),
        )
    hours = np.arange(4) * math.pi / 2
    part.spheres(around(0.7 * radius, hours, y - 0.004), 0.028 * radius, POLISHED)


def add_hand(part: Part, length: float, width: float, material: Material, y: float) -> None:
    """Add a clock's hand that points up from the part's origin."""
    part.capsules([0, y, -0.18 * length], [0, y, 0.62 * length], width, material)
    part.capsules([0, y, 0.6 * length], [0, y, length], 0.45 * width, material)
    add_ring_at = np.linspace(0, 2 * math.pi, 25)
    points = around(0.07 * length, add_ring_at, y) + [0, 0, 0.7 * length]
    part.capsules(points[:-1], points[1:], 0.45 * width, material)
    part.cylinders([0, y - 0.012, 0], [0, y + 0.012, 0], 2.2 * width, POLISHED)


def add_lantern(part: Part, base: Point, height: float, strength: float) -> None:
    """Add a lantern of brass with a flame in it; the panes are open."""
    x, y, z = base
    r = 0.26 * height
    corners = np.array([[sx * r, sy * r, 0] for sx in (-1, 1) for sy in (-1, 1)]) + base
    part.boxes([[x, y, z + 0.04 * height], [x, y, z + 0.74 * height]], [1.25 * r, 1.25 * r, 0.04 * height], BRASS)
    part.boxes([x, y, z + 0.83 * height], [0.8 * r, 0.8 * r, 0.06 * height], BRASS)
    part.capsules(corners + [0, 0, 0.06 * height], corners + [0, 0, 0.72 * height], 0.035 * height, BRASS)
    part.spheres([x, y, z + 0.36 * height], 0.13 * height, glow(LAMPLIGHT, strength))
    part.cylinders([x, y, z + 0.06 * height], [x, y, z + 0.22 * height], 0.07 * height, IVORY)
    handle = np.linspace(0, math.pi, 13)
    points = np.stack(
        [x + 0.16 * height * np.cos(handle), np.full(13, y), z + (0.9 + 0.16 * np.sin(handle)) * height], -1
    )
    part.capsules(points[:-1], points[1:], 0.02 * height, STEEL)


def add_books(part: Part, start: Point, length: float, height: float, along: Point, seed: int) -> None:
    """Add a row of books that stand along a direction of the floor."""
    random = np.random.default_rng(seed)
    forward = np.array([*along[:2], 0.0])
    sideways = np.array([-forward[1], forward[0], 0.0])
    shades = ((0.28, 0.07, 0.05), (0.07, 0.14, 0.17), (0.3, 0.2, 0.08), (0.09, 0.13, 0.07), (0.2, 0.17, 0.14))
    covers = [coat(shade, 0.4) for shade in shades]
    at = 0.0
    while at < length:
        thick = random.uniform(0.018, 0.055)
        tall = height * random.uniform(0.66, 0.96)
        lean = random.normal(0, 0.03) if random.random() < 0.9 else random.choice([-0.2, 0.2])
        up = np.array([0.0, 0.0, 1.0]) * math.cos(lean) + forward * math.sin(lean)
        axes = np.stack([forward * math.cos(lean) - np.array([0, 0, 1.0]) * math.sin(lean), sideways, up])
        centre = np.array(start) + forward * (at + thick / 2) + up * tall / 2 + sideways * random.uniform(-0.02, 0.01)
        cover = covers[random.integers(len(covers))]
        part.boxes(centre, [thick / 2, 0.09, tall / 2], cover, axes)
        if random.random() < 0.6:
            for share in (0.2, 0.75):
                band = centre + up * (share - 0.5) * tall
                part.boxes(band, [thick / 2 + 0.001, 0.091, 0.006], BRASS, axes)
        at += thick + random.uniform(0.001, 0.004) + (random.uniform(0.1, 0.25) if random.random() < 0.04 else 0.0)
