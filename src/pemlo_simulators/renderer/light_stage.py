"""The stage *light*: finds the lights, fills their table, and sends paths through the room for the radiance cache."""

import math
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo.core.threads import run_in_parts
from pemlo_simulators.renderer import materials as m
from pemlo_simulators.renderer.compiled import compiled_with_arrays
from pemlo_simulators.renderer.dice import roll, take_up
from pemlo_simulators.renderer.lights import Lights, cache_place, fill_chances
from pemlo_simulators.renderer.paths import Place, Rules, follow, light_at, look_at
from pemlo_simulators.renderer.rays import FAR, meet, new_scratch
from pemlo_simulators.renderer.shapes import DISC, QUAD, SPHERE
from pemlo_simulators.renderer.world import World, shapes_that_shine

_TABLE_CELLS = 14
_CACHE_CELLS = 48
_EVENLY = 0.1
_PATHS_TO_TRUST = 12
_CACHE_SEED = 7041


class Room(NamedTuple):
    """The box of a scene in which light matters: least and greatest corner, and how many paths explore it."""

    low: tuple[float, float, float]
    high: tuple[float, float, float]
    paths: int


def make_lights(world: World, room: Room, sky: Floats, table: Floats, rules: Rules, threads: int) -> Lights:
    """Prepare the lights of a frame.

    Parameters
    ----------
    world : World
    room : Room
        Without paths there is no radiance cache.
    sky : (4, 3) ndarray
    table : ndarray
        See `surfaces.ggx_albedo`.
    rules : Rules
        As the picture is to be traced.
    threads : int
    """
    lights = _listed(world, room)
    if len(lights.kinds):
        fill_chances(lights, _EVENLY)
    if room.paths:
        # The cache is made without itself, and its paths are as long as those that will ask it.
        places, found = np.full(room.paths, -1, np.int64), np.zeros((room.paths, 3))
        plain = rules._replace(shadow=1, gloss=1, through=1, cache_after=0)

        def explore(first: int, end: int) -> None:
            _explore(world, lights, table, sky, plain, places, found, first, end)

        run_in_parts(threads, room.paths, explore)
        _collect(lights, places, found, rules.cap / rules.exposure)
    return lights


def _listed(world: World, room: Room) -> Lights:
    shining = shapes_that_shine(world)
    sampled = shining[np.isin(world.kinds[shining], (SPHERE, DISC, QUAD))]
    of_shape = np.full(len(world.kinds), -1, np.int32)
    of_shape[sampled] = np.arange(len(sampled))
    rows, kinds = world.rows[sampled], world.kinds[sampled]
    area = np.select(
        [kinds == SPHERE, kinds == DISC],
        [4 * math.pi * rows[:, 3] ** 2, math.pi * (rows[:, 6] ** 2 - rows[:, 7] ** 2)],
        np.linalg.norm(rows[:, 3:6], axis=1) * np.linalg.norm(rows[:, 6:9], axis=1),
    )
    low, size = np.array(room.low, float), np.array(room.high, float) - room.low
    table_cells, cache_cells = _cells(size, _TABLE_CELLS), _cells(size, _CACHE_CELLS if room.paths else 1)
    kept = int(np.prod(cache_cells)) * 6
    return Lights(
        kinds,
        rows,
        world.motions[world.part[sampled]],
        world.materials[world.material[sampled], m.SHINE : m.SHINE + 3],
        area,
        of_shape,
        low,
        size,
        1.0 / size,
        table_cells,
        cache_cells,
        np.ones((int(np.prod(table_cells)), len(sampled))),
        np.zeros((kept, 3)),
        np.zeros(kept, np.bool_),
    )


def _cells(size: Floats, most: int) -> npt.NDArray[np.int32]:
    return np.maximum(1, np.ceil(most * size / size.max())).astype(np.int32)


@compiled_with_arrays
def _explore(
    world: World,
    lights: Lights,
    table: Floats,
    sky: Floats,
    rules: Rules,
    places: npt.NDArray[np.int64],
    found: Floats,
    first: int,
    end: int,
) -> None:
    """Look from random points of the room in random directions, and measure the light where a surface scatters."""
    dice, scratch = np.empty(1, np.uint64), new_scratch()
    for k in range(first, end):
        take_up(dice, _CACHE_SEED, k, 0)
        o = (
            lights.low[0] + roll(dice) * lights.size[0],
            lights.low[1] + roll(dice) * lights.size[1],
            lights.low[2] + roll(dice) * lights.size[2],
        )
        up, turn, time = 2.0 * roll(dice) - 1.0, 2.0 * math.pi * roll(dice), roll(dice)
        side = math.sqrt(1.0 - up * up)
        d = (side * math.cos(turn), side * math.sin(turn), up)
        distance, shape = meet(world, o, d, time, FAR, False, scratch)
        if shape < 0:
            continue
        place = look_at(world, o, d, time, distance, shape)
        if world.materials[place.material, m.KIND] > m.COAT:
            continue
        # As if the surface were white: its own colour is put in where the cache is asked.
        white = Place(place.p, place.n, place.material, (1.0, 1.0, 1.0), place.wo, place.inside)
        here = light_at(world, lights, table, white, time, dice, scratch)
        further = follow(world, lights, table, sky, rules, white, time, dice, scratch)
        places[k] = cache_place(lights, place.p, place.n)
        for c in range(3):
            found[k, c] = here[c] + further[c]


def _collect(lights: Lights, places: npt.NDArray[np.int64], found: Floats, cap: float) -> None:
    met = (places >= 0) & np.isfinite(found).all(axis=1)
    if cap > 0:
        found = np.minimum(found, cap)
    counts = np.bincount(places[met], minlength=len(lights.cached))
    for c in range(3):
        sums = np.bincount(places[met], weights=found[met, c], minlength=len(lights.cached))
        lights.cached[:, c] = sums / np.maximum(counts, 1)
    lights.trusted[:] = counts >= _PATHS_TO_TRUST
