"""Checks arrays from files before compiled code reads them: it looks neither at shapes nor at indices. NumPy."""

import tokenize
import zipfile
import zlib
from collections.abc import Mapping
from pathlib import Path
from typing import Any, TypeVar

import numpy as np
import numpy.typing as npt

from pemlo_simulators.renderer import materials, shapes
from pemlo_simulators.renderer.film import Sums
from pemlo_simulators.renderer.hierarchy import WIDTH
from pemlo_simulators.renderer.lights import Lights
from pemlo_simulators.renderer.paths import GUIDE, PARTS
from pemlo_simulators.renderer.rays import DEEPEST
from pemlo_simulators.renderer.world import MOTION_ROW, World

T = TypeVar("T", World, Lights, Sums)
Layout = Mapping[str, tuple[str, tuple[str | int, ...]]]  # of each array: its type and its shape, in which names vary
Array = npt.NDArray[Any]

WORLD: Layout = {
    "kinds": ("int8", ("shapes",)),
    "rows": ("float64", ("shapes", shapes.ROW)),
    "material": ("int32", ("shapes",)),
    "part": ("int32", ("shapes",)),
    "boxes": ("float32", ("nodes", 6, WIDTH)),
    "links": ("int32", ("nodes", WIDTH, 2)),
    "loose": ("int32", ("parts", 2)),
    "roots": ("int32", ("parts",)),
    "part_boxes": ("float64", ("parts", 6)),
    "motions": ("float64", ("parts", MOTION_ROW)),
    "moved": ("int8", ("parts",)),
    "materials": ("float64", ("materials", materials.ROW)),
}
LIGHTS: Layout = {
    "kinds": ("int8", ("lights",)),
    "rows": ("float64", ("lights", shapes.ROW)),
    "motions": ("float64", ("lights", MOTION_ROW)),
    "shine": ("float64", ("lights", 3)),
    "area": ("float64", ("lights",)),
    "of_shape": ("int32", ("shapes",)),
    "low": ("float64", (3,)),
    "size": ("float64", (3,)),
    "per_size": ("float64", (3,)),
    "table_cells": ("int32", (3,)),
    "cache_cells": ("int32", (3,)),
    "chance": ("float64", ("cells", "lights")),
    "cached": ("float64", ("faces", 3)),
    "trusted": ("bool", ("faces",)),
}
FILM: Layout = {
    "light": ("float64", ("height", "width", 6)),
    "guide": ("float64", ("height", "width", GUIDE)),
    "taken": ("int32", ("height", "width")),
    "lost": ("int32", ("height", "width")),
    "parts": ("float64", ("parts_height", "parts_width", PARTS + 3)),
}
LARGEST_BYTES = 8 * 2**30
# What NumPy and the archive raise for files that are none of theirs, or damaged.
DAMAGED = (
    *(EOFError, MemoryError, NotImplementedError, RuntimeError, SyntaxError),
    *(tokenize.TokenError, zipfile.BadZipFile, zlib.error),
)


def read_arrays(path: Path, kind: type[T], layout: Layout) -> tuple[T, Mapping[str, Array]]:
    """Read what `numpy.savez` wrote, as arrays of a layout, and the other arrays of the file.

    Raises
    ------
    OSError, ValueError, KeyError
        If the file is none, is damaged, or its arrays are not as they must be.
    """
    try:
        with zipfile.ZipFile(path) as whole:
            if sum(one.file_size for one in whole.infolist()) > LARGEST_BYTES:
                raise ValueError("it is too large")
        with np.load(path, allow_pickle=False) as file:
            found = {name: file[name] for name in file.files}
    except DAMAGED as error:
        raise ValueError(str(error)) from error
    _see_layout(found, layout)
    return kind(**{name: found.pop(name) for name in kind._fields}), found


def _see_layout(found: Mapping[str, Array], layout: Layout) -> None:
    sizes: dict[str, int] = {}
    for name, (kind, shape) in layout.items():
        array = found[name]
        wanted = tuple(part if isinstance(part, int) else sizes.setdefault(part, have)
                       for part, have in zip(shape, array.shape, strict=False))  # fmt: skip
        if array.dtype != np.dtype(kind) or array.shape != wanted or len(shape) != array.ndim:
            raise ValueError(f"{name} has not the shape or the type that it must have")
        if array.dtype.kind == "f" and not np.isfinite(array).all():
            raise ValueError(f"{name} holds what is no number")


def see_world(world: World) -> None:
    """Refuse geometry whose numbers lead out of its arrays, or round in circles.

    Raises
    ------
    ValueError
    """
    count, nodes = len(world.kinds), len(world.links)
    _see("kinds", world.kinds, 0, shapes.PLANE + 1)
    _see("material", world.material, 0, len(world.materials))
    _see("part", world.part, 0, len(world.roots))
    _see("loose", world.loose, 0, count + 1)
    _see("roots", world.roots, -1, nodes)
    _see("moved", world.moved, 0, 2)
    first, many = world.links[..., 0], world.links[..., 1]
    _see("links", many, -1, count + 1)
    leaf, inner = many > 0, many == 0
    # After the last child, marked -1, nothing is looked at.
    looked_at = np.logical_and.accumulate(many >= 0, axis=1)
    leaf, inner = leaf & looked_at, inner & looked_at
    _see("links", first[leaf], 0, count)
    _see("links", (first + many)[leaf], 0, count + 1)
    _see("links", first[inner], 0, nodes)
    if np.any((first <= np.arange(nodes)[:, None]) & inner):
        raise ValueError("links go back")
    _see_depth(world, first, inner)
    kinds = world.materials[:, materials.KIND]
    if not np.isin(kinds, range(materials.LIGHT + 1)).all():
        raise ValueError("there is a material of no kind")


def _see_depth(world: World, first: Array, inner: Array) -> None:
    """Refuse trees for which the list of nodes that wait is too short."""
    waiting = np.zeros(len(first), np.int64)
    for node in range(len(first) - 1, -1, -1):
        children = first[node, inner[node]]
        if len(children):
            waiting[node] = len(children) - 1 + max(1, waiting[children].max())
    if any(waiting[root] >= DEEPEST for root in world.roots if root >= 0):
        raise ValueError("links are too deep")


def see_lights(lights: Lights) -> None:
    """Refuse lights whose numbers lead out of their arrays.

    Raises
    ------
    ValueError
    """
    if not np.isin(lights.kinds, (shapes.SPHERE, shapes.DISC, shapes.QUAD)).all():
        raise ValueError("there is a light of no kind that can be aimed at")
    _see("of_shape", lights.of_shape, -1, len(lights.kinds))
    for name, kept in (("table_cells", len(lights.chance)), ("cache_cells", len(lights.cached) / 6)):
        cells = getattr(lights, name)
        if cells.min() < 1 or float(np.prod(cells.astype(float))) != kept:
            raise ValueError(f"{name} are not as many as there are")


def see_film(film: Sums, blank: Sums) -> None:
    """Refuse sums of samples that are of another size than a blank film.

    Raises
    ------
    ValueError
    """
    for name in Sums._fields:
        if getattr(film, name).shape != getattr(blank, name).shape:
            raise ValueError(f"{name} is of another size")
    _see("taken", film.taken, 0, 2**31 - 1)
    _see("lost", film.lost, 0, 2**31 - 1)


def _see(name: str, values: Array, least: int, end: int) -> None:
    if values.size and not (least <= int(values.min()) and int(values.max()) < end):
        raise ValueError(f"{name} leads out of its array")
