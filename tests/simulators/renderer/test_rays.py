"""Rays against shapes: what the hierarchy finds is what trying every shape finds, and lies on the shape."""

import math

import numpy as np
import pytest

from pemlo_simulators.renderer.compiled import compiled_with_arrays
from pemlo_simulators.renderer.materials import matt
from pemlo_simulators.renderer.rays import FAR, distance_to, meet, new_scratch, outward, to_part, to_part_direction
from pemlo_simulators.renderer.shapes import Motion, Part, shape_bounds
from pemlo_simulators.renderer.world import pack

GREY = matt((0.5, 0.5, 0.5))


def crowd(seed: int, count: int, motion: Motion = Motion()) -> Part:  # noqa: B008 - a frozen value
    random = np.random.default_rng(seed)
    part = Part(motion)
    at = random.uniform(-3, 3, (6, count, 3))
    part.spheres(at[0], random.uniform(0.05, 0.3, count), GREY)
    turned = np.linalg.qr(random.normal(size=(count, 3, 3)))[0]
    part.boxes(at[1], random.uniform(0.05, 0.3, (count, 3)), GREY, turned)
    part.capsules(at[2], at[2] + random.normal(0, 0.4, (count, 3)), random.uniform(0.02, 0.1, count), GREY)
    part.cylinders(at[3], at[3] + random.normal(0, 0.4, (count, 3)), random.uniform(0.02, 0.2, count), GREY)
    for k in range(count):
        part.disc(tuple(at[4, k]), tuple(random.normal(size=3)), 0.3, GREY, 0.1)
    first = random.normal(0, 0.3, (count, 3))
    part.quads(at[5], first, np.cross(first, random.normal(size=(count, 3))), GREY)
    return part


@compiled_with_arrays
def nearest(world, o, d, time):
    return meet(world, o, d, time, FAR, False, new_scratch())


@compiled_with_arrays
def anything(world, o, d, time, reach):
    return meet(world, o, d, time, reach, True, new_scratch())


@compiled_with_arrays
def by_trying(world, o, d, time):
    best, found = FAR, -1
    for p in range(len(world.kinds)):
        g = world.part[p]
        lo, ld = to_part(world.motions, g, time, o), to_part_direction(world.motions, g, time, d)
        t = distance_to(world.kinds[p], world.rows, p, lo, ld, 1e-6)
        if t < best:
            best, found = t, p
    return best, found


def rays(seed, count):
    random = np.random.default_rng(seed)
    for _ in range(count):
        d = random.normal(size=3)
        yield tuple(random.uniform(-4, 4, 3)), tuple(d / np.linalg.norm(d)), random.random()


@pytest.mark.parametrize("count", [1, 3, 40, 400])
def test_the_hierarchy_finds_what_trying_every_shape_finds(count):
    moving = Motion(((0.2, 0, 0), (0.6, 0.1, 0)), (1, 2, 3), (0.3, 1.4))
    world = pack([crowd(1, count), crowd(2, count, moving)])
    met = 0
    for o, d, time in rays(count, 400):
        (t, shape), (truth, right) = nearest(world, o, d, time), by_trying(world, o, d, time)
        assert (shape, t) == (right, pytest.approx(truth, rel=1e-9))
        met += shape >= 0
        assert (anything(world, o, d, time, FAR)[1] >= 0) == (right >= 0)
        if right >= 0:
            assert anything(world, o, d, time, truth * 0.999)[1] < 0
    assert met > 10 or count < 40


@compiled_with_arrays
def normal_at(world, p, at):
    return outward(world.kinds[p], world.rows, p, at)


def test_normals_are_unit_and_point_out():
    world = pack([crowd(5, 30)])
    for o, d, _ in rays(6, 600):
        t, shape = nearest(world, o, d, 0.0)
        if shape < 0:
            continue
        at = tuple(np.array(o) + t * np.array(d))
        n = normal_at(world, shape, at)
        assert math.hypot(*n) == pytest.approx(1)
        if world.kinds[shape] not in (2, 3):  # not discs and rectangles, which have no inside
            step = tuple(np.array(at) + 1e-4 * np.array(n))
            back = tuple(-np.array(n))
            assert distance_to(world.kinds[shape], world.rows, shape, step, back, 1e-6) == pytest.approx(1e-4, rel=0.05)


def test_boxes_around_shapes_hold_them():
    part = crowd(9, 60)
    kinds, rows = np.concatenate(part.kinds), np.concatenate(part.rows)
    bounds = shape_bounds(kinds, rows)
    world = pack([part])
    for o, d, _ in rays(4, 500):
        t, shape = nearest(world, o, d, 0.0)
        if shape >= 0:
            at = np.array(o) + t * np.array(d)
            row = np.flatnonzero((rows == world.rows[shape]).all(axis=1))[0]
            assert (bounds[row, :3] <= at + 1e-7).all()
            assert (at - 1e-7 <= bounds[row, 3:]).all()


def test_a_scene_of_one_sphere_is_met_in_front_and_from_within():
    part = Part()
    part.spheres([0, 0, 0], 1, GREY)
    world = pack([part])
    assert nearest(world, (-3.0, 0.0, 0.0), (1.0, 0.0, 0.0), 0.0) == (pytest.approx(2.0), 0)
    assert nearest(world, (0.0, 0.0, 0.0), (0.0, 1.0, 0.0), 0.0) == (pytest.approx(1.0), 0)
    assert nearest(world, (3.0, 0.0, 0.0), (1.0, 0.0, 0.0), 0.0)[1] == -1
