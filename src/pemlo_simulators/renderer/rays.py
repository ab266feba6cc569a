"""Where a ray meets the world. Compiled; lengths in metres, directions of unit length."""

import math
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo_simulators.renderer.compiled import compiled, compiled_apart, compiled_with_arrays
from pemlo_simulators.renderer.hierarchy import WIDTH
from pemlo_simulators.renderer.shapes import BOX, CAPSULE, CYLINDER, DISC, QUAD, SPHERE
from pemlo_simulators.renderer.vectors import Vector, along, dot, minus, rotated, times, unit
from pemlo_simulators.renderer.world import ANGLES, AXIS, World

Floats32 = npt.NDArray[np.float32]
NEAREST = 1e-6
FAR = 1e30
DEEPEST = 256


class Scratch(NamedTuple):
    """Room for one thread to work in; what it holds is lost with the next ray.

    Attributes
    ----------
    nodes, entered : (256,) int32, float32
        Nodes still to be looked at, and where the ray enters them.
    near : (WIDTH,) float32
        Where the ray enters the children of a node.
    """

    nodes: npt.NDArray[np.int32]
    entered: Floats32
    near: Floats32


@compiled_with_arrays
def new_scratch() -> Scratch:
    """Return room for one thread."""
    return Scratch(np.empty(DEEPEST, np.int32), np.empty(DEEPEST, np.float32), np.empty(WIDTH, np.float32))


@compiled
def _three(rows: Floats, p: int, first: int) -> Vector:
    return (rows[p, first], rows[p, first + 1], rows[p, first + 2])


@compiled
def _sphere(rows: Floats, p: int, o: Vector, d: Vector, least: float) -> float:
    from_centre = minus(o, _three(rows, p, 0))
    b = dot(from_centre, d)
    # The distance of the ray from the centre, taken so that it keeps its figures far away.
    off = minus(from_centre, times(d, b))
    inside = rows[p, 3] * rows[p, 3] - dot(off, off)
    if inside < 0.0:
        return FAR
    root = math.sqrt(inside)
    if -b - root > least:
        return -b - root
    return -b + root if -b + root > least else FAR


@compiled
def _box(rows: Floats, p: int, o: Vector, d: Vector, least: float) -> float:
    from_centre = minus(o, _three(rows, p, 0))
    near, far = -FAR, FAR
    for i in range(3):
        axis = _three(rows, p, 6 + 3 * i)
        at, slope = dot(axis, from_centre), dot(axis, d)
        if abs(slope) < 1e-15:
            if abs(at) > rows[p, 3 + i]:
                return FAR
            continue
        first, second = (-rows[p, 3 + i] - at) / slope, (rows[p, 3 + i] - at) / slope
        near, far = max(near, min(first, second)), min(far, max(first, second))
    if near > far:
        return FAR
    if near > least:
        return near
    return far if far > least else FAR


@compiled
def _flat(rows: Floats, p: int, normal: int, o: Vector, d: Vector, least: float) -> float:
    n = _three(rows, p, normal)
    slope = dot(n, d)
    if abs(slope) < 1e-15:
        return FAR
    t = dot(n, minus(_three(rows, p, 0), o)) / slope
    return t if t > least else FAR


@compiled
def _disc(rows: Floats, p: int, o: Vector, d: Vector, least: float) -> float:
    t = _flat(rows, p, 3, o, d, least)
    if t == FAR:
        return FAR
    off = minus(along(o, d, t), _three(rows, p, 0))
    square = dot(off, off)
    return t if rows[p, 7] * rows[p, 7] <= square <= rows[p, 6] * rows[p, 6] else FAR


@compiled
def _quad(rows: Floats, p: int, o: Vector, d: Vector, least: float) -> float:
    t = _flat(rows, p, 9, o, d, least)
    if t == FAR:
        return FAR
    off = minus(along(o, d, t), _three(rows, p, 0))
    first, second = _three(rows, p, 3), _three(rows, p, 6)
    a, b = dot(off, first), dot(off, second)
    return t if 0.0 <= a <= dot(first, first) and 0.0 <= b <= dot(second, second) else FAR


@compiled
def _cylinder(rows: Floats, p: int, o: Vector, d: Vector, least: float) -> float:
    axis, length, radius = _three(rows, p, 3), rows[p, 6], rows[p, 7]
    from_end = minus(o, _three(rows, p, 0))
    height, climb = dot(axis, from_end), dot(axis, d)
    side_o, side_d = minus(from_end, times(axis, height)), minus(d, times(axis, climb))
    a, b, c = dot(side_d, side_d), dot(side_o, side_d), dot(side_o, side_o) - radius * radius
    near, far = -FAR, FAR
    if a > 1e-15:
        inside = b * b - a * c
        if inside < 0.0:
            return FAR
        root = math.sqrt(inside)
        near, far = (-b - root) / a, (-b + root) / a
    elif c > 0.0:
        return FAR
    if abs(climb) > 1e-15:
        first, second = -height / climb, (length - height) / climb
        near, far = max(near, min(first, second)), min(far, max(first, second))
    elif height < 0.0 or height > length:
        return FAR
    if near > far:
        return FAR
    if near > least:
        return near
    return far if far > least else FAR


@compiled
def _capsule(rows: Floats, p: int, o: Vector, d: Vector, least: float) -> float:
    axis, length, radius = _three(rows, p, 3), rows[p, 6], rows[p, 7]
    from_end = minus(o, _three(rows, p, 0))
    height, climb = dot(axis, from_end), dot(axis, d)
    side_o, side_d = minus(from_end, times(axis, height)), minus(d, times(axis, climb))
    a, b, c = dot(side_d, side_d), dot(side_o, side_d), dot(side_o, side_o) - radius * radius
    best = FAR
    if a > 1e-15:
        inside = b * b - a * c
        if inside < 0.0:
            return FAR
        root = math.sqrt(inside)
        for t in ((-b - root) / a, (-b + root) / a):
            if least < t < best and 0.0 <= height + t * climb <= length:
                best = t
    for end in (0.0, length):
        off = minus(from_end, times(axis, end))
        b = dot(off, d)
        inside = b * b - dot(off, off) + radius * radius
        if inside < 0.0:
            continue
        root = math.sqrt(inside)
        for t in (-b - root, -b + root):
            at = height + t * climb
            beyond = at <= 0.0 if end == 0.0 else at >= length
            if least < t < best and beyond:
                best = t
    return best


@compiled
def distance_to(kind: int, rows: Floats, p: int, o: Vector, d: Vector, least: float) -> float:
    """Return how far along the ray one shape is met, beyond `least`; FAR if it is not."""
    return _sphere(rows, p, o, d, least) if kind == SPHERE else _distance_to_other(kind, rows, p, o, d, least)


@compiled_apart
def _distance_to_other(kind: int, rows: Floats, p: int, o: Vector, d: Vector, least: float) -> float:
    if kind == BOX:
        return _box(rows, p, o, d, least)
    if kind == CAPSULE:
        return _capsule(rows, p, o, d, least)
    if kind == CYLINDER:
        return _cylinder(rows, p, o, d, least)
    if kind == QUAD:
        return _quad(rows, p, o, d, least)
    if kind == DISC:
        return _disc(rows, p, o, d, least)
    return _flat(rows, p, 3, o, d, least)


@compiled
def outward(kind: int, rows: Floats, p: int, at: Vector) -> Vector:
    """Return the unit normal of a shape at a point on it, outward; of flat shapes their own."""
    if kind == SPHERE:
        return unit(minus(at, _three(rows, p, 0)))
    if kind == BOX:
        off = minus(at, _three(rows, p, 0))
        best, face, sign = -FAR, 0, 1.0
        for i in range(3):
            out = dot(_three(rows, p, 6 + 3 * i), off)
            if abs(out) - rows[p, 3 + i] > best:
                best, face, sign = abs(out) - rows[p, 3 + i], i, (1.0 if out > 0.0 else -1.0)
        return times(_three(rows, p, 6 + 3 * face), sign)
    if kind == CYLINDER or kind == CAPSULE:
        axis, length = _three(rows, p, 3), rows[p, 6]
        off = minus(at, _three(rows, p, 0))
        height = dot(off, axis)
        if kind == CAPSULE:
            return unit(minus(off, times(axis, min(max(height, 0.0), length))))
        side = minus(off, times(axis, height))
        depth = rows[p, 7] - math.sqrt(dot(side, side))
        if depth > min(abs(height), abs(length - height)):
            return times(axis, 1.0 if height > 0.5 * length else -1.0)
        return unit(side)
    if kind == QUAD:
        return _three(rows, p, 9)
    return _three(rows, p, 3)


@compiled
def to_part(motions: Floats, g: int, time: float, p: Vector) -> Vector:
    """Bring a point of the world into a part's coordinates at a time from 0 (shutter opens) to 1 (closes)."""
    return to_part_direction(motions, g, time, minus(p, _origin(motions, g, time)))


@compiled
def to_part_direction(motions: Floats, g: int, time: float, d: Vector) -> Vector:
    """Bring a direction of the world into a part's coordinates."""
    angle = motions[g, ANGLES] + time * (motions[g, ANGLES + 1] - motions[g, ANGLES])
    return rotated(d, _three(motions, g, AXIS), -angle) if angle != 0.0 else d


@compiled
def from_part_direction(motions: Floats, g: int, time: float, d: Vector) -> Vector:
    """Bring a direction of a part's coordinates into the world."""
    angle = motions[g, ANGLES] + time * (motions[g, ANGLES + 1] - motions[g, ANGLES])
    return rotated(d, _three(motions, g, AXIS), angle) if angle != 0.0 else d


@compiled
def from_part(motions: Floats, g: int, time: float, p: Vector) -> Vector:
    """Bring a point of a part's coordinates into the world."""
    q, o = from_part_direction(motions, g, time, p), _origin(motions, g, time)
    return (q[0] + o[0], q[1] + o[1], q[2] + o[2])


@compiled
def _origin(motions: Floats, g: int, time: float) -> Vector:
    return (
        motions[g, 0] + time * (motions[g, 3] - motions[g, 0]),
        motions[g, 1] + time * (motions[g, 4] - motions[g, 1]),
        motions[g, 2] + time * (motions[g, 5] - motions[g, 2]),
    )


@compiled
def _into_box(boxes: Floats, k: int, o: Vector, inverse: Vector, best: float) -> float:
    """Return where a ray enters a box (its first six numbers), FAR if it passes or enters beyond `best`."""
    ax, bx = (boxes[k, 0] - o[0]) * inverse[0], (boxes[k, 3] - o[0]) * inverse[0]
    ay, by = (boxes[k, 1] - o[1]) * inverse[1], (boxes[k, 4] - o[1]) * inverse[1]
    az, bz = (boxes[k, 2] - o[2]) * inverse[2], (boxes[k, 5] - o[2]) * inverse[2]
    near = max(max(min(ax, bx), min(ay, by)), max(min(az, bz), 0.0))
    far = min(min(max(ax, bx), max(ay, by)), min(max(az, bz), best))
    return near if near <= far else FAR


@compiled
def _into_children(boxes: Floats32, node: int, o: Vector, inverse: Vector, best: float, near: Floats32) -> None:
    """Fill `near` with where a ray enters each child's box; the loop's length is not given, so that it is vectorised.

    In single precision, of which twice as many fit; the boxes are a little larger than they must be.
    """
    ox, oy, oz = np.float32(o[0]), np.float32(o[1]), np.float32(o[2])
    ix, iy, iz = np.float32(inverse[0]), np.float32(inverse[1]), np.float32(inverse[2])
    reach, nothing, far_away = np.float32(best), np.float32(0.0), np.float32(FAR)
    for k in range(len(near)):
        ax, bx = (boxes[node, 0, k] - ox) * ix, (boxes[node, 3, k] - ox) * ix
        ay, by = (boxes[node, 1, k] - oy) * iy, (boxes[node, 4, k] - oy) * iy
        az, bz = (boxes[node, 2, k] - oz) * iz, (boxes[node, 5, k] - oz) * iz
        first = max(max(min(ax, bx), min(ay, by)), max(min(az, bz), nothing))
        last = min(min(max(ax, bx), max(ay, by)), min(max(az, bz), reach))
        near[k] = first if first <= last else far_away


@compiled
def _inverse(d: Vector) -> Vector:
    # Never infinite: infinity times nothing is "not a number", and that would lose the box.
    x = d[0] if abs(d[0]) > 1e-12 else 1e-12
    y = d[1] if abs(d[1]) > 1e-12 else 1e-12
    z = d[2] if abs(d[2]) > 1e-12 else 1e-12
    return (1.0 / x, 1.0 / y, 1.0 / z)


@compiled
def meet(
    world: World, o: Vector, d: Vector, time: float, reach: float, any_will_do: bool, scratch: Scratch
) -> tuple[float, int]:
    """Find the nearest shape along a ray.

    Parameters
    ----------
    world : World
    o, d : tuple of float
        Origin and unit direction.
    time : float
        0 when the shutter opens, 1 when it closes.
    reach : float
        Shapes from here on do not count.
    any_will_do : bool
        Take the first shape found, near or not: enough to know whether light is held up.
    scratch : Scratch

    Returns
    -------
    distance : float
        FAR if nothing is met.
    shape : int
        -1 if nothing is met.
    """
    best, found = reach, -1
    inverse = _inverse(d)
    rows, kinds, links = world.rows, world.kinds, world.links
    nodes, entered, near = scratch.nodes, scratch.entered, scratch.near
    for g in range(len(world.roots)):
        if _into_box(world.part_boxes, g, o, inverse, best) == FAR:
            continue
        lo, ld = o, d
        if world.moved[g]:
            lo, ld = to_part(world.motions, g, time, o), to_part_direction(world.motions, g, time, d)
        for p in range(world.loose[g, 0], world.loose[g, 1]):
            t = distance_to(kinds[p], rows, p, lo, ld, NEAREST)
            if t < best:
                best, found = t, p
        if any_will_do and found >= 0:
            return best, found
        if world.roots[g] < 0:
            continue
        linv = _inverse(ld)
        top, nodes[0], entered[0] = 1, world.roots[g], 0.0
        while top > 0:
            top -= 1
            if entered[top] >= best:
                continue
            node, bottom = nodes[top], top
            _into_children(world.boxes, node, lo, linv, best, near)
            for k in range(WIDTH):
                first, count = links[node, k, 0], links[node, k, 1]
                if count < 0:
                    break
                at = near[k]
                if at >= best:
                    continue
                if count == 0:
                    # Nearest last, so that it is taken up first.
                    place = top
                    while place > bottom and entered[place - 1] < at:
                        nodes[place], entered[place] = nodes[place - 1], entered[place - 1]
                        place -= 1
                    nodes[place], entered[place] = first, at
                    top += 1
                    continue
                for p in range(first, first + count):
                    t = distance_to(kinds[p], rows, p, lo, ld, NEAREST)
                    if t < best:
                        best, found = t, p
            if any_will_do and found >= 0:
                return best, found
    return (best, found) if found >= 0 else (FAR, -1)
