"""A plain path tracer of spheres over a floor in NumPy, as anyone would write it first: the yardstick of the bench."""

import numpy as np

from pemlo.core.arrays import Floats

BOUNCES = 5
ROUND = 1e-9
ORIGIN, TARGET, WIDTH_DEGREES = (0.0, -7.0, 2.2), (0.0, 0.0, 0.45), 77.3
LAMP, FLOOR = 12.0, 0.6


def fourteen_spheres() -> tuple[Floats, Floats, Floats]:
    """Return centres (14, 3), radii (14,) and colours (14, 3); the last one is the lamp."""
    random = np.random.default_rng(14)
    at = np.array([(x, y) for x in (-2.2, -0.75, 0.75, 2.2) for y in (-1.5, 0.0, 1.5)] + [(0.0, 3.0)])
    radii = random.uniform(0.3, 0.6, 13)
    centres = np.column_stack([at + random.uniform(-0.2, 0.2, at.shape), radii])
    colours = random.uniform(0.3, 0.9, (13, 3))
    return np.vstack([centres, [0, 0, 4]]), np.append(radii, 0.8), np.vstack([colours, [0, 0, 0]])


def render(width: int, height: int, samples: int, random: np.random.Generator) -> Floats:
    """Return the picture (height, width, 3) of the scene: matt spheres, a matt floor, one lamp, 5 bounces."""
    centres, radii, colours = fourteen_spheres()
    shine = np.full(3, LAMP)
    total = np.zeros((height * width, 3))
    y, x = np.divmod(np.arange(height * width), width)
    for _ in range(samples):
        o, d = _camera(x, y, width, height, random)
        through = np.ones((len(o), 3))
        alive = np.arange(len(o))
        for bounce in range(BOUNCES):
            t, hit = _nearest(o, d, centres, radii)
            found = np.isfinite(t)
            if bounce == 0:
                total[alive[found & (hit == 13)]] += shine
            found &= hit != 13
            o, d, t, hit, through, alive = o[found], d[found], t[found], hit[found], through[found], alive[found]
            if not len(o):
                break
            p = o + t[:, None] * d
            floor = hit == 14
            n = np.where(
                floor[:, None], [0.0, 0.0, 1.0], (p - centres[np.minimum(hit, 13)]) / radii[np.minimum(hit, 13), None]
            )
            through = through * np.where(floor[:, None], FLOOR, colours[np.minimum(hit, 13)])
            p = p + 1e-6 * n
            total[alive] += through * shine * _direct(p, n, centres, radii, random)[:, None]
            o, d = p, _cosine(n, random)
    return (total / samples).reshape(height, width, 3)


def _camera(x: Floats, y: Floats, width: int, height: int, random: np.random.Generator) -> tuple[Floats, Floats]:
    across = 2 * (x + random.random(len(x))) / width - 1
    up = (1 - 2 * (y + random.random(len(y))) / height) * height / width
    forward = (np.array(TARGET) - ORIGIN) / np.linalg.norm(np.array(TARGET) - ORIGIN)
    right, above = np.array([1.0, 0.0, 0.0]), np.cross([1.0, 0.0, 0.0], forward)
    half = np.tan(np.radians(WIDTH_DEGREES) / 2)
    d = forward + half * (across[:, None] * right + up[:, None] * above)
    return np.broadcast_to(ORIGIN, d.shape), d / np.linalg.norm(d, axis=1, keepdims=True)


def _nearest(o: Floats, d: Floats, centres: Floats, radii: Floats) -> tuple[Floats, np.ndarray]:
    off = o[:, None, :] - centres
    b = np.einsum("nkc,nc->nk", off, d)
    inside = b * b - (off**2).sum(axis=2) + radii**2
    root = np.sqrt(np.maximum(inside, 0))
    near = np.where(-b - root > ROUND, -b - root, -b + root)
    t = np.where((inside > 0) & (near > ROUND), near, np.inf)
    with np.errstate(divide="ignore", invalid="ignore"):
        floor = -o[:, 2] / d[:, 2]
    t = np.column_stack([t, np.where(floor > ROUND, floor, np.inf)])
    hit = t.argmin(axis=1)
    return t[np.arange(len(t)), hit], hit


def _direct(p: Floats, n: Floats, centres: Floats, radii: Floats, random: np.random.Generator) -> Floats:
    """Return the share of the lamp's radiance that a matt point sends on: one point of its cone of directions."""
    to = centres[13] - p
    away = np.linalg.norm(to, axis=1)
    axis = to / away[:, None]
    least = np.sqrt(np.maximum(1 - (radii[13] / away) ** 2, 0))
    c = 1 - random.random(len(p)) * (1 - least)
    d = _around(axis, c, random)
    _, hit = _nearest(p, d, centres, radii)
    seen = hit == 13
    return np.where(seen, np.maximum((d * n).sum(axis=1), 0) * 2 * (1 - least), 0.0)


def _cosine(n: Floats, random: np.random.Generator) -> Floats:
    return _around(n, np.sqrt(random.random(len(n))), random)


def _around(axis: Floats, c: Floats, random: np.random.Generator) -> Floats:
    s, turn = np.sqrt(np.maximum(1 - c * c, 0)), 2 * np.pi * random.random(len(c))
    other = np.where(np.abs(axis[:, :1]) > 0.9, [0.0, 1.0, 0.0], [1.0, 0.0, 0.0])
    first = np.cross(axis, other)
    first /= np.linalg.norm(first, axis=1, keepdims=True)
    second = np.cross(axis, first)
    return (s * np.cos(turn))[:, None] * first + (s * np.sin(turn))[:, None] * second + c[:, None] * axis
