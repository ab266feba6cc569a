"""Packs the parts of a scene into the arrays that rays run through: what the stage *prepare* makes."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo_simulators.renderer import materials as m
from pemlo_simulators.renderer.hierarchy import WIDTH, build_hierarchy
from pemlo_simulators.renderer.materials import Material
from pemlo_simulators.renderer.shapes import PLANE, ROW, Motion, Part, shape_bounds

# Places in a part's row of motion: two origins, the axis, two angles.
ORIGINS, AXIS, ANGLES, MOTION_ROW = 0, 6, 9, 11
_FEW = 16
_ENDLESS = 1e30


class World(NamedTuple):
    """All geometry of a frame, P shapes in G parts.

    Attributes
    ----------
    kinds : (P,) int8
    rows : (P, ROW) float
        Shapes in the coordinates of their parts, in the order of the leaves.
    material, part : (P,) int32
        Which material and which part each shape has.
    boxes : (N, 6, hierarchy.WIDTH) float32
    links : (N, hierarchy.WIDTH, 2) int32
        Nodes of all hierarchies, one after another; see `hierarchy`.
    loose : (G, 2) int32
        Shapes of each part that are tried one by one: first, and the end. They are planes, which no box can hold,
        and all shapes of a part with few: a hierarchy over them would cost more than it saves.
    roots : (G,) int32
        First node of each part, -1 where a part has none.
    part_boxes : (G, 6) float
        Around each part in the world, for as long as the shutter is open.
    motions : (G, MOTION_ROW) float
    moved : (G,) int8
        0 where a part's coordinates are those of the world.
    materials : (M, materials.ROW) float
    """

    kinds: npt.NDArray[np.int8]
    rows: Floats
    material: npt.NDArray[np.int32]
    part: npt.NDArray[np.int32]
    boxes: npt.NDArray[np.float32]
    links: npt.NDArray[np.int32]
    loose: npt.NDArray[np.int32]
    roots: npt.NDArray[np.int32]
    part_boxes: Floats
    motions: Floats
    moved: npt.NDArray[np.int8]
    materials: Floats


def pack(parts: Sequence[Part]) -> World:
    """Build the hierarchies of all parts and put everything into arrays.

    Parameters
    ----------
    parts : sequence of Part
        At least one shape in all.
    """
    found: dict[Material, int] = {}
    packed = [_pack_part(part, found) for part in parts]
    sizes = np.array([len(one.kinds) for one in packed])
    nodes = np.array([len(one.links) for one in packed])
    shapes_before, nodes_before = np.cumsum(sizes) - sizes, np.cumsum(nodes) - nodes
    links = [one.links.copy() for one in packed]
    for k, link in enumerate(links):
        link[..., 0] += np.where(link[..., 1] != 0, shapes_before[k], nodes_before[k]).astype(np.int32)
    return World(
        np.concatenate([one.kinds for one in packed]),
        np.concatenate([one.rows for one in packed]),
        np.concatenate([one.material for one in packed]),
        np.repeat(np.arange(len(parts)), sizes).astype(np.int32),
        _widened([one.boxes for one in packed]),
        np.concatenate(links),
        (shapes_before[:, None] + [[0, one.loose] for one in packed]).astype(np.int32),
        np.where(nodes > 0, nodes_before, -1).astype(np.int32),
        np.array([one.around for one in packed]),
        np.array([motion_row(part.motion) for part in parts]),
        np.array([_is_moved(part.motion) for part in parts], np.int8),
        np.array([material.row() for material in found]),
    )


def _widened(boxes: list[Floats]) -> npt.NDArray[np.float32]:
    """Put boxes into single precision, larger by more than its rounding takes off."""
    together = np.concatenate(boxes)
    slack = 2e-6 * (1 + np.abs(together)) * np.array([-1, -1, -1, 1, 1, 1])[:, None]
    return (together + slack).astype(np.float32)


class _Packed(NamedTuple):
    """One part: its loose shapes come first, then those of its hierarchy."""

    kinds: npt.NDArray[np.int8]
    rows: Floats
    material: npt.NDArray[np.int32]
    loose: int
    boxes: Floats
    links: npt.NDArray[np.int32]
    around: Floats


def _pack_part(part: Part, found: dict[Material, int]) -> _Packed:
    kinds, rows, material = _flat(part, found)
    bounds = shape_bounds(kinds, rows)
    endless = kinds == PLANE
    around = np.concatenate([np.minimum.reduce(bounds[:, :3]), np.maximum.reduce(bounds[:, 3:])])
    around = np.array([-_ENDLESS] * 3 + [_ENDLESS] * 3) if endless.any() else _swept(around, part.motion)
    loose = np.ones(len(kinds), bool) if len(kinds) <= _FEW else endless
    boxes, links = np.zeros((0, 6, WIDTH)), np.zeros((0, WIDTH, 2), np.int32)
    order, sorted_in = np.flatnonzero(loose), np.flatnonzero(~loose)
    if len(sorted_in):
        boxes, links, leaves = build_hierarchy(bounds[sorted_in])
        links[..., 0] += np.where(links[..., 1] > 0, len(order), 0).astype(np.int32)
        order = np.concatenate([order, sorted_in[leaves]])
    return _Packed(kinds[order], rows[order], material[order], int(loose.sum()), boxes, links, around)


def motion_row(motion: Motion) -> Floats:
    """Return a motion as `MOTION_ROW` numbers."""
    axis = np.asarray(motion.axis, float)
    return np.concatenate([*motion.origin, axis / np.linalg.norm(axis), motion.angle]).astype(float)


def shapes_that_shine(world: World) -> npt.NDArray[np.int32]:
    """Return the shapes that are lights, in order."""
    return np.flatnonzero(world.materials[world.material, m.KIND] == m.LIGHT).astype(np.int32)


def _flat(part: Part, found: dict[Material, int]) -> tuple[npt.NDArray[np.int8], Floats, npt.NDArray[np.int32]]:
    if not part.kinds:
        return np.zeros(0, np.int8), np.zeros((0, ROW)), np.zeros(0, np.int32)
    numbers = [np.full(count, found.setdefault(material, len(found)), np.int32) for material, count in part.materials]
    return np.concatenate(part.kinds), np.concatenate(part.rows), np.concatenate(numbers)


def _is_moved(motion: Motion) -> bool:
    return any(any(origin) for origin in motion.origin) or any(motion.angle)


def _swept(box: Floats, motion: Motion) -> Floats:
    """Return a box in the world around all places of a turning and moving box: around its whole circle if it turns."""
    corners = np.stack(np.meshgrid(*zip(box[:3], box[3:], strict=True)), axis=-1).reshape(-1, 3)
    axis = np.asarray(motion.axis, float) / np.linalg.norm(motion.axis)
    if motion.angle[0] == motion.angle[1]:
        corners = _turn(corners, axis, motion.angle[0])
        low, high = corners.min(axis=0), corners.max(axis=0)
    else:
        heights = corners @ axis
        reach = np.linalg.norm(corners - heights[:, None] * axis, axis=1).max() * np.sqrt(np.maximum(0, 1 - axis**2))
        ends = np.outer([heights.min(), heights.max()], axis)
        low, high = ends.min(axis=0) - reach, ends.max(axis=0) + reach
    origins = np.array(motion.origin)
    return np.concatenate([low + origins.min(axis=0), high + origins.max(axis=0)])


def _turn(points: Floats, axis: Floats, angle: float) -> Floats:
    c, s = np.cos(angle), np.sin(angle)
    return np.asarray(points * c + np.cross(axis, points) * s + np.outer(points @ axis, axis) * (1 - c))
