"""What a surface does with light: colour over the surface, and scattering. Compiled.

Directions are in the frame around the normal (third part along it), the one towards the viewer always above.
"""

import functools
import math

import numpy as np

from pemlo.core.arrays import Floats
from pemlo_simulators.renderer import materials as m
from pemlo_simulators.renderer.compiled import compiled
from pemlo_simulators.renderer.dice import Dice, roll
from pemlo_simulators.renderer.vectors import Vector, dot, on_circle, times, unit

_TABLE = 32
_ROUGHEST = 1.0


# ---- colour over the surface


@compiled
def lattice(x: int, y: int, z: int) -> float:
    """Return a number from 0 to 1 that belongs to a point of the lattice of whole numbers."""
    h = (
        (np.uint32(x) * np.uint32(0x8DA6B343))
        ^ (np.uint32(y) * np.uint32(0xD8163841))
        ^ (np.uint32(z) * np.uint32(0xCB1AB31F))
    )
    h = np.uint32(h ^ (h >> np.uint32(15))) * np.uint32(0x2C1B3C6D)
    h = np.uint32(h ^ (h >> np.uint32(12))) * np.uint32(0x297A2D39)
    return float(np.uint32(h ^ (h >> np.uint32(15)))) / 4294967296.0


@compiled
def cloud(x: float, y: float, z: float) -> float:
    """Return smooth noise between 0 and 1: random numbers on a lattice, blended."""
    ix, iy, iz = int(math.floor(x)), int(math.floor(y)), int(math.floor(z))
    fx, fy, fz = x - ix, y - iy, z - iz
    ux, uy, uz = fx * fx * (3 - 2 * fx), fy * fy * (3 - 2 * fy), fz * fz * (3 - 2 * fz)
    total = 0.0
    for corner in range(8):
        cx, cy, cz = corner & 1, (corner >> 1) & 1, corner >> 2
        weight = (ux if cx else 1 - ux) * (uy if cy else 1 - uy) * (uz if cz else 1 - uz)
        total += weight * lattice(ix + cx, iy + cy, iz + cz)
    return total


@compiled
def colour_at(rows: Floats, k: int, p: Vector) -> Vector:
    """Return a surface's colour at a point of its part."""
    first = (rows[k, m.COLOUR], rows[k, m.COLOUR + 1], rows[k, m.COLOUR + 2])
    if rows[k, m.PATTERN] == m.PLAIN:
        return first
    x, y, z = p[0] / rows[k, m.PATTERN_SIZE], p[1] / rows[k, m.PATTERN_SIZE + 1], p[2] / rows[k, m.PATTERN_SIZE + 2]
    if rows[k, m.PATTERN] == m.LINES:
        # Courses of blocks, each of its own shade, with dark joints.
        course = int(math.floor(z))
        shift = 0.5 * (course & 1)
        block = int(math.floor(x + shift)), int(math.floor(y + shift))
        joint = (
            min(z - course, 1 - z + course) < 0.04
            or abs(x + shift - block[0] - 0.5) > 0.48
            or abs(y + shift - block[1] - 0.5) > 0.48
        )
        share = 1.0 if joint else 0.55 * lattice(block[0], block[1], course) + 0.25 * cloud(9 * x, 9 * y, 9 * z)
    else:
        share = (
            0.55 * cloud(x, y, z)
            + 0.3 * cloud(2.3 * x + 7, 2.3 * y, 2.3 * z)
            + 0.15 * cloud(5.1 * x, 5.1 * y + 3, 5.1 * z)
        )
        share = min(max(1.7 * share - 0.35, 0.0), 1.0)
    return (
        first[0] + share * (rows[k, m.SECOND] - first[0]),
        first[1] + share * (rows[k, m.SECOND + 1] - first[1]),
        first[2] + share * (rows[k, m.SECOND + 2] - first[2]),
    )


@compiled
def rippled(rows: Floats, k: int, p: Vector, n: Vector) -> Vector:
    """Bend a normal by small waves; they travel as the third coordinate of the noise."""
    size, slope, phase = rows[k, m.RIPPLE_SIZE], rows[k, m.RIPPLE], rows[k, m.PATTERN_SIZE + 2]
    x, y, e = p[0] / size, p[1] / size, 0.05
    here = cloud(x, y, phase) + 0.5 * cloud(2.1 * x, 2.1 * y, 1.7 * phase)
    dx = cloud(x + e, y, phase) + 0.5 * cloud(2.1 * (x + e), 2.1 * y, 1.7 * phase) - here
    dy = cloud(x, y + e, phase) + 0.5 * cloud(2.1 * x, 2.1 * (y + e), 1.7 * phase) - here
    return unit((n[0] - slope * dx / e, n[1] - slope * dy / e, n[2]))


# ---- GGX


@compiled
def _lambda(w: Vector, alpha: float) -> float:
    square = w[2] * w[2]
    return 0.5 * (math.sqrt(1.0 + alpha * alpha * max(0.0, 1.0 - square) / max(square, 1e-12)) - 1.0)


@compiled
def _density_of_facets(h: Vector, alpha: float) -> float:
    a2 = alpha * alpha
    s = (h[0] * h[0] + h[1] * h[1]) / a2 + h[2] * h[2]
    return 1.0 / (math.pi * a2 * s * s)


@compiled
def visible_facet(wo: Vector, alpha: float, a: float, b: float) -> Vector:
    """Pick a facet of a GGX surface as often as the viewer sees it.

    References
    ----------
    .. [1] B. Walter et al., "Microfacet models for refraction through rough surfaces", EGSR 2007 (GGX).
    .. [2] J. Dupuy, A. Benyoub, "Sampling visible GGX normals with spherical caps", CGF 42(8), 2023.
    """
    bent = unit((alpha * wo[0], alpha * wo[1], wo[2]))
    z = (1.0 - b) * (1.0 + bent[2]) - bent[2]
    side = math.sqrt(max(0.0, 1.0 - z * z))
    c, s = on_circle(a)
    h = (side * c + bent[0], side * s + bent[1], z + bent[2])
    return unit((alpha * h[0], alpha * h[1], max(1e-9, h[2])))


@compiled
def _mirrored(wo: Vector, h: Vector) -> Vector:
    c = 2.0 * dot(wo, h)
    return (c * h[0] - wo[0], c * h[1] - wo[1], c * h[2] - wo[2])


@compiled
def _fill_albedo(table: Floats, steps: int) -> None:
    for i in range(len(table)):
        alpha = _ROUGHEST * (i + 0.5) / len(table)
        for j in range(table.shape[1]):
            mu = (j + 0.5) / table.shape[1]
            wo = (math.sqrt(1.0 - mu * mu), 0.0, mu)
            total = 0.0
            for a in range(steps):
                for b in range(steps):
                    wi = _mirrored(wo, visible_facet(wo, alpha, (a + 0.5) / steps, (b + 0.5) / steps))
                    if wi[2] > 0.0:
                        seen = 1.0 + _lambda(wo, alpha)
                        total += seen / (seen + _lambda(wi, alpha))
            table[i, j] = total / (steps * steps)


@functools.cache
def ggx_albedo() -> Floats:
    """Return how much light one bounce on a white GGX surface sends on, by width and by the viewer's cosine.

    Returns
    -------
    (32, 32) ndarray
        Widths and cosines in the middle of equal steps from 0 to 1.
    """
    table = np.empty((_TABLE, _TABLE))
    _fill_albedo(table, 64)
    return table


@compiled
def _lost(table: Floats, alpha: float, mu: float) -> float:
    """Return (1 - E) / E, E the table's value between its steps."""
    x = min(max(alpha * _TABLE - 0.5, 0.0), _TABLE - 1.001)
    y = min(max(mu * _TABLE - 0.5, 0.0), _TABLE - 1.001)
    i, j = int(x), int(y)
    fx, fy = x - i, y - j
    e = (1 - fx) * ((1 - fy) * table[i, j] + fy * table[i, j + 1])
    e += fx * ((1 - fy) * table[i + 1, j] + fy * table[i + 1, j + 1])
    return (1.0 - e) / e


@compiled
def _schlick(at_right_angles: float, cosine: float) -> float:
    rest = 1.0 - min(max(cosine, 0.0), 1.0)
    square = rest * rest
    return at_right_angles + (1.0 - at_right_angles) * square * square * rest


@compiled
def fresnel(cosine: float, ratio: float) -> float:
    """Return the share of light that a smooth surface of glass sends back (Fresnel's equations, unpolarised).

    Parameters
    ----------
    cosine : float
        Of the angle of incidence, 0 to 1.
    ratio : float
        Refractive index behind the surface over the one before it.
    """
    square = ratio * ratio - 1.0 + cosine * cosine
    if square <= 0.0:
        return 1.0
    g = math.sqrt(square)
    across = (cosine - g) / (cosine + g)
    within = (ratio * ratio * cosine - g) / (ratio * ratio * cosine + g)
    return 0.5 * (across * across + within * within)


# ---- scattering


@compiled
def evaluate(rows: Floats, k: int, colour: Vector, table: Floats, wo: Vector, wi: Vector) -> tuple[Vector, float]:
    """Return scattering times cosine, and the density with which `scatter` picks `wi` (per steradian).

    Metal sends on the light that one bounce would lose, after E. Turquin, "Practical multiple scattering
    compensation for microfacet models", 2019. Smooth glass scatters nowhere that could be asked for.
    """
    if wi[2] <= 0.0 or rows[k, m.KIND] == m.GLASS:
        return (0.0, 0.0, 0.0), 0.0
    matt_density = wi[2] / math.pi
    if rows[k, m.KIND] == m.MATT:
        return times(colour, matt_density), matt_density
    alpha = rows[k, m.ROUGHNESS] * rows[k, m.ROUGHNESS]
    h = unit((wo[0] + wi[0], wo[1] + wi[1], wo[2] + wi[2]))
    facets = _density_of_facets(h, alpha)
    seen, sent = _lambda(wo, alpha), _lambda(wi, alpha)
    density = facets / ((1.0 + seen) * 4.0 * wo[2])
    shape = facets / ((1.0 + seen + sent) * 4.0 * wo[2])
    cosine = dot(wo, h)
    if rows[k, m.KIND] == m.METAL:
        lost = _lost(table, alpha, wo[2])
        return (
            shape * _schlick(colour[0], cosine) * (1.0 + colour[0] * lost),
            shape * _schlick(colour[1], cosine) * (1.0 + colour[1] * lost),
            shape * _schlick(colour[2], cosine) * (1.0 + colour[2] * lost),
        ), density
    flat = (rows[k, m.IOR] - 1.0) / (rows[k, m.IOR] + 1.0)
    flat *= flat
    gloss = shape * _schlick(flat, cosine)
    below = matt_density * (1.0 - _schlick(flat, wo[2])) * (1.0 - _schlick(flat, wi[2]))
    share = coat_share(rows, k, wo)
    return (
        gloss + below * colour[0],
        gloss + below * colour[1],
        gloss + below * colour[2],
    ), share * density + (1.0 - share) * matt_density


@compiled
def coat_share(rows: Floats, k: int, wo: Vector) -> float:
    """Return how often light is followed off the coat and not into what is below."""
    flat = (rows[k, m.IOR] - 1.0) / (rows[k, m.IOR] + 1.0)
    return min(max(_schlick(flat * flat, wo[2]), 0.15), 0.9)


@compiled
def scatter(
    rows: Floats, k: int, colour: Vector, table: Floats, wo: Vector, dice: Dice
) -> tuple[Vector, Vector, float]:
    """Pick where light goes on (of matt, coat and metal).

    Returns
    -------
    wi : tuple of float
        Unit direction; not above the surface if the light is lost.
    weight : tuple of float
        Scattering times cosine over density.
    density : float
        Per steradian; 0 if lost.
    """
    a, b = roll(dice), roll(dice)
    glossy = rows[k, m.KIND] == m.METAL or (rows[k, m.KIND] == m.COAT and roll(dice) < coat_share(rows, k, wo))
    if glossy:
        alpha = rows[k, m.ROUGHNESS] * rows[k, m.ROUGHNESS]
        wi = _mirrored(wo, visible_facet(wo, alpha, a, b))
    else:
        radius, (c, s) = math.sqrt(a), on_circle(b)
        wi = (radius * c, radius * s, math.sqrt(max(0.0, 1.0 - a)))
    value, density = evaluate(rows, k, colour, table, wo, wi)
    if density <= 0.0:
        return wi, (0.0, 0.0, 0.0), 0.0
    return wi, times(value, 1.0 / density), density


@compiled
def pass_glass(ratio: float, wo: Vector, dice: Dice) -> tuple[Vector, bool]:
    """Send light back from smooth glass or through it, as often as Fresnel's equations say.

    Parameters
    ----------
    ratio : float
        Refractive index behind the surface over the one before it, seen from `wo`.

    Returns
    -------
    wi : tuple of float
        Below the surface if it goes through.
    through : bool
    """
    if roll(dice) < fresnel(wo[2], ratio):
        return (-wo[0], -wo[1], wo[2]), False
    x, y = -wo[0] / ratio, -wo[1] / ratio
    return (x, y, -math.sqrt(max(0.0, 1.0 - x * x - y * y))), True
