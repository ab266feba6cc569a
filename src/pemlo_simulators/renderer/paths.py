"""Follows light from the camera: path tracing with lights sampled directly. Compiled."""

import math
from typing import NamedTuple

from pemlo.core.arrays import Floats
from pemlo_simulators.renderer import materials as m
from pemlo_simulators.renderer.compiled import compiled, compiled_apart
from pemlo_simulators.renderer.dice import Dice, roll
from pemlo_simulators.renderer.lights import Lights, aim_at, cache_place, chance_of, density_to, pick_light
from pemlo_simulators.renderer.rays import FAR, Scratch, from_part_direction, meet, outward, to_part
from pemlo_simulators.renderer.surfaces import colour_at, evaluate, lattice, pass_glass, rippled, scatter
from pemlo_simulators.renderer.vectors import Vector, add, along, dot, largest, seen_from, times, tint, turned_to
from pemlo_simulators.renderer.world import World

_BLACK = (0.0, 0.0, 0.0)
GUIDE = 7  # albedo, normal, depth
PARTS = 9  # light from lights, off a gloss and through glass, at the first surface; red, green, blue of each
SKY_DEPTH = 1e6
_STAR_CELLS = 60.0
_STAR_SIZE = 0.03


class Rules(NamedTuple):
    """How paths are followed.

    Attributes
    ----------
    bounces : int
        Most surfaces on a path after the first.
    exposure : float
        What radiance is multiplied with before it falls on the film.
    cap : float
        Most that one sample may bring to the film, 0 for no cap. A cap makes pictures a little darker and much cleaner.
    shadow, gloss, through : int
        Rays per sample at the first surface: to lights, off a gloss, through glass.
    cache_after : int
        Number of scatterings after which the radiance cache is asked, 0 for never.
    """

    bounces: int
    exposure: float
    cap: float
    shadow: int
    gloss: int
    through: int
    cache_after: int


class Place(NamedTuple):
    """A point on a surface that is looked at: where, its normal towards the viewer, and what is there.

    `inside` tells that it is seen from within; `wo` is the direction to the viewer in the frame around the normal.
    """

    p: Vector
    n: Vector
    material: int
    colour: Vector
    wo: Vector
    inside: bool


@compiled
def sky_light(sky: Floats, d: Vector) -> Vector:
    """Return what comes from beyond all shapes.

    Parameters
    ----------
    sky : (4, 3) ndarray
        Radiance straight up, at the horizon, straight down; the last row is for `stars`.
    d : tuple of float
        Unit direction.
    """
    other, share = (0, math.sqrt(d[2])) if d[2] > 0.0 else (2, min(1.0, -4.0 * d[2]))
    return (
        sky[1, 0] + share * (sky[other, 0] - sky[1, 0]),
        sky[1, 1] + share * (sky[other, 1] - sky[1, 1]),
        sky[1, 2] + share * (sky[other, 2] - sky[1, 2]),
    )


@compiled
def stars(sky: Floats, d: Vector) -> Vector:
    """Return the light of the stars in a direction: at most one small one in each cell of a net over the sky."""
    if sky[3, 0] <= 0.0 or d[2] <= 0.02:
        return _BLACK
    height, turn = math.asin(min(1.0, d[2])) * _STAR_CELLS, math.atan2(d[1], d[0])
    ring = math.floor(height)
    across = turn * math.cos((ring + 0.5) / _STAR_CELLS) * _STAR_CELLS
    cell = math.floor(across)
    x, y = across - cell, height - ring
    u, v = lattice(int(cell), int(ring), 1), lattice(int(cell), int(ring), 2)
    bright = lattice(int(cell), int(ring), 3)
    off = (x - 0.1 - 0.8 * u) ** 2 + (y - 0.1 - 0.8 * v) ** 2
    if off > _STAR_SIZE * _STAR_SIZE or bright < 0.8:
        return _BLACK
    glow = sky[3, 0] * (5.0 * bright - 4.0) ** 4 * min(1.0, 5.0 * d[2])
    return (glow, glow * sky[3, 1], glow * sky[3, 2])


@compiled
def look_at(world: World, o: Vector, d: Vector, time: float, distance: float, shape: int) -> Place:
    """Return the place where a ray meets a shape."""
    p = along(o, d, distance)
    part = world.part[shape]
    local = p
    if world.moved[part]:
        local = to_part(world.motions, part, time, p)
    n = outward(world.kinds[shape], world.rows, shape, local)
    rows, k = world.materials, world.material[shape]
    colour = colour_at(rows, k, local)
    if rows[k, m.RIPPLE] > 0.0:
        n = rippled(rows, k, local, n)
    if world.moved[part]:
        n = from_part_direction(world.motions, part, time, n)
    facing = dot(n, d)
    inside = facing > 0.0
    if inside:
        n = times(n, -1.0)
    wo = seen_from(n, times(d, -1.0))
    return Place(p, n, world.material[shape], colour, (wo[0], wo[1], max(wo[2], 1e-6)), inside)


@compiled
def light_at(
    world: World, lights: Lights, table: Floats, place: Place, time: float, dice: Dice, scratch: Scratch
) -> Vector:
    """Return the light that one picked light sends to the viewer by way of a place.

    Weighed against scattering by the balance heuristic.

    References
    ----------
    .. [1] E. Veach, L. Guibas, "Optimally combining sampling techniques for Monte Carlo rendering", SIGGRAPH 1995.
    """
    if len(lights.kinds) == 0:
        return _BLACK
    light, chance = pick_light(lights, place.p, dice)
    d, distance, density = aim_at(lights, light, time, place.p, dice)
    if density <= 0.0:
        return _BLACK
    value, scattered = evaluate(world.materials, place.material, place.colour, table, place.wo, seen_from(place.n, d))
    if largest(value) <= 0.0:
        return _BLACK
    start = along(place.p, place.n, 1e-6)
    blocked, _ = meet(world, start, d, time, distance * (1.0 - 1e-5) - 2e-6, True, scratch)
    if blocked < FAR:
        return _BLACK
    density *= chance
    weight = 1.0 / (density + scattered)
    shine = (lights.shine[light, 0], lights.shine[light, 1], lights.shine[light, 2])
    return times(tint(value, shine), weight)


@compiled_apart
def follow(
    world: World,
    lights: Lights,
    table: Floats,
    sky: Floats,
    rules: Rules,
    place: Place,
    time: float,
    dice: Dice,
    scratch: Scratch,
) -> Vector:
    """Return the light that reaches the viewer by scattering at a place, but for lights that were sampled there."""
    total, power = _BLACK, (1.0, 1.0, 1.0)
    scatterings = 0
    for bounce in range(rules.bounces):
        rows, k = world.materials, place.material
        density = 0.0
        if rows[k, m.KIND] == m.GLASS:
            ratio = 1.0 / rows[k, m.IOR] if place.inside else rows[k, m.IOR]
            wi, through = pass_glass(ratio, place.wo, dice)
            side = -1e-6 if through else 1e-6
        else:
            wi, weight, density = scatter(rows, k, place.colour, table, place.wo, dice)
            if density <= 0.0:
                break
            power = tint(power, weight)
            scatterings += 1
            side = 1e-6
        d = turned_to(place.n, wi)
        o = along(place.p, place.n, side)
        distance, shape = meet(world, o, d, time, FAR, False, scratch)
        if shape < 0:
            total = add(total, tint(power, sky_light(sky, d)))
            break
        came_from = place.p
        place = look_at(world, o, d, time, distance, shape)
        rows, k = world.materials, place.material
        if (
            place.inside
            and rows[k, m.KIND] == m.GLASS
            and rows[k, m.ABSORB] + rows[k, m.ABSORB + 1] + rows[k, m.ABSORB + 2] > 0.0
        ):
            power = tint(power, _kept_by(rows, k, distance))
        if rows[k, m.KIND] == m.LIGHT:
            if not place.inside:
                share = 1.0
                light = lights.of_shape[shape]
                if light >= 0 and density > 0.0:
                    sampled = density_to(lights, light, time, came_from, d, distance) * chance_of(
                        lights, light, came_from
                    )
                    share = density / (density + sampled)
                total = add(
                    total, times(tint(power, (rows[k, m.SHINE], rows[k, m.SHINE + 1], rows[k, m.SHINE + 2])), share)
                )
            break
        if rows[k, m.KIND] != m.GLASS:
            if 0 < rules.cache_after <= scatterings and rows[k, m.KIND] <= m.COAT:
                kept = cache_place(lights, place.p, place.n)
                if lights.trusted[kept]:
                    known = (lights.cached[kept, 0], lights.cached[kept, 1], lights.cached[kept, 2])
                    total = add(total, tint(power, tint(place.colour, known)))
                    break
            total = add(total, tint(power, light_at(world, lights, table, place, time, dice, scratch)))
        if bounce >= 2:
            # Russian roulette: paths that carry little end early, those that live on carry more.
            survive = min(0.95, largest(power))
            if roll(dice) >= survive:
                break
            power = times(power, 1.0 / survive)
    return total


@compiled
def _kept_by(rows: Floats, k: int, distance: float) -> Vector:
    return (
        math.exp(-rows[k, m.ABSORB] * distance),
        math.exp(-rows[k, m.ABSORB + 1] * distance),
        math.exp(-rows[k, m.ABSORB + 2] * distance),
    )


@compiled
def exposed(radiance: Vector, rules: Rules) -> Vector:
    """Return what radiance brings to the film: times the exposure, and not above the cap."""
    return times(radiance, gain_of(radiance, rules))


@compiled
def gain_of(radiance: Vector, rules: Rules) -> float:
    """Return what radiance is multiplied with before it falls on the film."""
    most = rules.exposure * largest(radiance)
    return rules.exposure * (rules.cap / most if 0.0 < rules.cap < most else 1.0)


@compiled
def see(
    world: World,
    lights: Lights,
    table: Floats,
    sky: Floats,
    rules: Rules,
    o: Vector,
    d: Vector,
    time: float,
    dice: Dice,
    scratch: Scratch,
    guide: Floats,
    parts: Floats,
) -> Vector:
    """Return what one ray of the camera brings to the film: radiance times exposure, capped.

    `guide` (GUIDE,) is filled with albedo, normal and depth of the first surface, for the denoisers; `parts` (PARTS,)
    with what came there from lights, off a gloss, and through glass. The rest came by a matt surface or from itself.
    """
    parts[:] = 0.0
    distance, shape = meet(world, o, d, time, FAR, False, scratch)
    if shape < 0:
        guide[:6], guide[6] = 0.0, SKY_DEPTH
        return exposed(add(sky_light(sky, d), stars(sky, d)), rules)
    place = look_at(world, o, d, time, distance, shape)
    rows, k = world.materials, place.material
    for i in range(3):
        guide[i] = 1.0 if rows[k, m.KIND] >= m.GLASS else place.colour[i]
        guide[3 + i] = place.n[i]
    guide[6] = distance
    if rows[k, m.KIND] == m.LIGHT:
        shine = (rows[k, m.SHINE], rows[k, m.SHINE + 1], rows[k, m.SHINE + 2])
        return _BLACK if place.inside else exposed(shine, rules)
    total = _BLACK
    branches = rules.through
    if rows[k, m.KIND] != m.GLASS:
        for _ in range(rules.shadow):
            total = add(total, light_at(world, lights, table, place, time, dice, scratch))
        total = times(total, 1.0 / rules.shadow)
        branches = 1 if rows[k, m.KIND] == m.MATT else rules.gloss
    further = _BLACK
    for _ in range(branches):
        further = add(further, follow(world, lights, table, sky, rules, place, time, dice, scratch))
    further = times(further, 1.0 / branches)
    both = add(total, further)
    gain = gain_of(both, rules)
    where = 6 if rows[k, m.KIND] == m.GLASS else 3
    for c in range(3):
        parts[c] = gain * total[c]
        if rows[k, m.KIND] != m.MATT:
            parts[where + c] = gain * further[c]
    return times(both, gain)
