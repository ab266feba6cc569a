"""Lights that are sampled directly, the table that says which one matters where, and the radiance cache.

All of it is what the stage *light* makes; compiled functions to pick a light and to weigh what was picked.
"""

import math
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo_simulators.renderer.compiled import compiled
from pemlo_simulators.renderer.dice import Dice, roll
from pemlo_simulators.renderer.rays import FAR, distance_to, from_part, from_part_direction, to_part, to_part_direction
from pemlo_simulators.renderer.shapes import DISC, QUAD, SPHERE
from pemlo_simulators.renderer.vectors import Vector, along, dot, minus, on_circle, times, turned_to


class Lights(NamedTuple):
    """L lights as they stand in one frame, and two grids over the room.

    Attributes
    ----------
    kinds, rows, motions : (L,) int8, (L, shapes.ROW), (L, world.MOTION_ROW) float
        Shapes of the lights and how they move: copies, so that kept lights shine from where they stood.
    shine : (L, 3) float
    area : (L,) float
    of_shape : (P,) int32
        Light of each shape of the world, -1 for those that do not shine or cannot be sampled.
    low, size, per_size : (3,) float
        Least corner and edges of the room, and one over them.
    table_cells, cache_cells : (3,) int32
        Cells along each axis.
    chance : (C, L) float
        Sum of the chances of the lights up to each one, by cell of the table.
    cached : (K * 6, 3) float
        Light that falls on a surface (irradiance over pi), by cell of the cache and by the axis nearest its normal.
    trusted : (K * 6,) bool
        Where enough paths came by to use it.
    """

    kinds: npt.NDArray[np.int8]
    rows: Floats
    motions: Floats
    shine: Floats
    area: Floats
    of_shape: npt.NDArray[np.int32]
    low: Floats
    size: Floats
    per_size: Floats
    table_cells: npt.NDArray[np.int32]
    cache_cells: npt.NDArray[np.int32]
    chance: Floats
    cached: Floats
    trusted: npt.NDArray[np.bool_]


@compiled
def cell_of(lights: Lights, cells: npt.NDArray[np.int32], p: Vector) -> int:
    """Return the cell that a point of the world is in; points outside count to the nearest one."""
    number = 0
    for axis in range(3):
        at = int(cells[axis] * (p[axis] - lights.low[axis]) * lights.per_size[axis])
        number = number * cells[axis] + min(max(at, 0), cells[axis] - 1)
    return number


@compiled
def cache_place(lights: Lights, p: Vector, n: Vector) -> int:
    """Return where the cache keeps the light on a surface at `p` with normal `n`."""
    axis = 0
    for i in range(1, 3):
        if abs(n[i]) > abs(n[axis]):
            axis = i
    return cell_of(lights, lights.cache_cells, p) * 6 + 2 * axis + (1 if n[axis] > 0.0 else 0)


@compiled
def pick_light(lights: Lights, p: Vector, dice: Dice) -> tuple[int, float]:
    """Pick a light as the table of the point's cell has it; return it and its chance."""
    cell, chance = cell_of(lights, lights.table_cells, p), lights.chance
    x = roll(dice)
    low, high = 0, chance.shape[1] - 1
    while low < high:
        middle = (low + high) // 2
        if chance[cell, middle] > x:
            high = middle
        else:
            low = middle + 1
    return low, chance[cell, low] - (chance[cell, low - 1] if low > 0 else 0.0)


@compiled
def chance_of(lights: Lights, light: int, p: Vector) -> float:
    """Return the chance that `pick_light` picks a light."""
    cell, chance = cell_of(lights, lights.table_cells, p), lights.chance
    return chance[cell, light] - (chance[cell, light - 1] if light > 0 else 0.0)


@compiled
def aim_at(lights: Lights, light: int, time: float, p: Vector, dice: Dice) -> tuple[Vector, float, float]:
    """Pick a direction from a point of the world to a light.

    Returns
    -------
    direction : tuple of float
        Unit, in the world.
    distance : float
        To the light's surface.
    density : float
        Per steradian; 0 if the light does not shine to the point.
    """
    rows, motions = lights.rows, lights.motions
    local = to_part(motions, light, time, p)
    a, b = roll(dice), roll(dice)
    if lights.kinds[light] == SPHERE:
        to_centre = minus((rows[light, 0], rows[light, 1], rows[light, 2]), local)
        square = dot(to_centre, to_centre)
        sine2 = rows[light, 3] * rows[light, 3] / square
        if sine2 >= 1.0:
            return (0.0, 0.0, 1.0), 0.0, 0.0
        cap = sine2 / (1.0 + math.sqrt(1.0 - sine2))
        cosine = 1.0 - a * cap
        side = math.sqrt(max(0.0, 1.0 - cosine * cosine))
        c, s = on_circle(b)
        d = turned_to(times(to_centre, 1.0 / math.sqrt(square)), (side * c, side * s, cosine))
        t = distance_to(SPHERE, rows, light, local, d, 0.0)
        if t == FAR:
            # Just past the edge by rounding: the touching point is as far as the edge.
            t = math.sqrt(square - rows[light, 3] * rows[light, 3])
        return from_part_direction(motions, light, time, d), t, 1.0 / (2.0 * math.pi * cap)
    if lights.kinds[light] == QUAD:
        point = along(
            along(
                (rows[light, 0], rows[light, 1], rows[light, 2]), (rows[light, 3], rows[light, 4], rows[light, 5]), a
            ),
            (rows[light, 6], rows[light, 7], rows[light, 8]),
            b,
        )
        n = (rows[light, 9], rows[light, 10], rows[light, 11])
    else:
        n = (rows[light, 3], rows[light, 4], rows[light, 5])
        radius = math.sqrt(
            rows[light, 7] * rows[light, 7] + a * (rows[light, 6] * rows[light, 6] - rows[light, 7] * rows[light, 7])
        )
        c, s = on_circle(b)
        off = turned_to(n, (radius * c, radius * s, 0.0))
        point = (rows[light, 0] + off[0], rows[light, 1] + off[1], rows[light, 2] + off[2])
    step = minus(point, local)
    square = dot(step, step)
    t = math.sqrt(square)
    d = times(step, 1.0 / t)
    facing = -dot(d, n)
    if facing <= 1e-9:
        return (0.0, 0.0, 1.0), 0.0, 0.0
    return from_part_direction(motions, light, time, d), t, square / (facing * lights.area[light])


@compiled
def density_to(lights: Lights, light: int, time: float, p: Vector, d: Vector, distance: float) -> float:
    """Return the density with which `aim_at` picks a direction that is known to meet the light."""
    rows, motions = lights.rows, lights.motions
    if lights.kinds[light] == SPHERE:
        to_centre = minus((rows[light, 0], rows[light, 1], rows[light, 2]), to_part(motions, light, time, p))
        sine2 = rows[light, 3] * rows[light, 3] / dot(to_centre, to_centre)
        if sine2 >= 1.0:
            return 0.0
        return (1.0 + math.sqrt(1.0 - sine2)) / (2.0 * math.pi * sine2)
    n = (
        (rows[light, 9], rows[light, 10], rows[light, 11])
        if lights.kinds[light] == QUAD
        else (rows[light, 3], rows[light, 4], rows[light, 5])
    )
    facing = -dot(to_part_direction(motions, light, time, d), n)
    return distance * distance / (facing * lights.area[light]) if facing > 1e-9 else 0.0


@compiled
def fill_chances(lights: Lights, floor: float) -> None:
    """Fill the table: the light that each one would send to the middle of a cell if nothing stood between.

    Parameters
    ----------
    lights : Lights
        `chance` is overwritten.
    floor : float
        Share of the chances that is spread evenly, so that no light is ever impossible.
    """
    cells = lights.table_cells
    reach = 0.25 * (
        (lights.size[0] / cells[0]) ** 2 + (lights.size[1] / cells[1]) ** 2 + (lights.size[2] / cells[2]) ** 2
    )
    count = len(lights.kinds)
    for x in range(cells[0]):
        for y in range(cells[1]):
            for z in range(cells[2]):
                cell = (x * cells[1] + y) * cells[2] + z
                p = (
                    lights.low[0] + (x + 0.5) * lights.size[0] / cells[0],
                    lights.low[1] + (y + 0.5) * lights.size[1] / cells[1],
                    lights.low[2] + (z + 0.5) * lights.size[2] / cells[2],
                )
                row = lights.chance[cell]
                total = 0.0
                for i in range(count):
                    row[i] = _sent_to(lights, i, p, reach)
                    total += row[i]
                so_far = 0.0
                for i in range(count):
                    so_far += (1.0 - floor) * (row[i] / total if total > 0.0 else 1.0 / count) + floor / count
                    row[i] = so_far
                row[count - 1] = 1.0


@compiled
def _sent_to(lights: Lights, light: int, p: Vector, reach: float) -> float:
    rows, kind = lights.rows, lights.kinds[light]
    middle = (rows[light, 0], rows[light, 1], rows[light, 2])
    if kind == QUAD:
        middle = (
            rows[light, 0] + 0.5 * (rows[light, 3] + rows[light, 6]),
            rows[light, 1] + 0.5 * (rows[light, 4] + rows[light, 7]),
            rows[light, 2] + 0.5 * (rows[light, 5] + rows[light, 8]),
        )
    step = minus(p, from_part(lights.motions, light, 0.5, middle))
    square = dot(step, step)
    facing = 0.25 if kind == SPHERE else 1.0
    if kind == QUAD or kind == DISC:
        n = (
            (rows[light, 9], rows[light, 10], rows[light, 11])
            if kind == QUAD
            else (rows[light, 3], rows[light, 4], rows[light, 5])
        )
        n = from_part_direction(lights.motions, light, 0.5, n)
        facing = max(0.1, (dot(step, n) + math.sqrt(reach)) / math.sqrt(square + reach))
    brightness = 0.2126 * lights.shine[light, 0] + 0.7152 * lights.shine[light, 1] + 0.0722 * lights.shine[light, 2]
    return brightness * lights.area[light] * facing / (square + reach)
