"""What scenes are made of: rigid parts that hold shapes, as rows of numbers. Pure NumPy.

A shape is one row: what kind it is, its material, and up to `ROW` numbers as documented at each method of `Part`.
Lengths are metres.
"""

from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo_simulators.renderer.materials import Material

SPHERE, BOX, DISC, QUAD, CYLINDER, CAPSULE, PLANE = range(7)
ROW = 15

Point = tuple[float, float, float]


@dataclass(frozen=True)
class Motion:
    """How a rigid part stands while the shutter is open: turned around an axis through its origin, then moved.

    The two values of each pair hold when the shutter opens and when it closes; between them the part moves evenly.
    """

    origin: tuple[Point, Point] = ((0.0, 0.0, 0.0), (0.0, 0.0, 0.0))
    axis: Point = (0.0, 0.0, 1.0)
    angle: tuple[float, float] = (0.0, 0.0)

    @staticmethod
    def still(origin: Point = (0.0, 0.0, 0.0), axis: Point = (0.0, 0.0, 1.0), angle: float = 0.0) -> "Motion":
        """Return the motion of a part that does not move."""
        return Motion((origin, origin), axis, (angle, angle))


STILL = Motion()


@dataclass
class Part:
    """A rigid part of a scene. Shapes are given in its own coordinates, `motion` puts it in the world."""

    motion: Motion = STILL
    kinds: list[npt.NDArray[np.int8]] = field(default_factory=list)
    rows: list[Floats] = field(default_factory=list)
    materials: list[tuple[Material, int]] = field(default_factory=list)

    def spheres(self, centres: npt.ArrayLike, radii: npt.ArrayLike, material: Material) -> None:
        """Add spheres; `centres` is (N, 3), `radii` (N,) or one number. Row: centre, radius."""
        centres = np.atleast_2d(np.asarray(centres, float))
        self._add(SPHERE, material, centres, np.broadcast_to(np.asarray(radii, float), len(centres))[:, None])

    def boxes(
        self, centres: npt.ArrayLike, halves: npt.ArrayLike, material: Material, axes: Floats | None = None
    ) -> None:
        """Add boxes; `axes` is (3, 3) or (N, 3, 3), the unit directions of their edges. Row: centre, halves, axes."""
        centres = np.atleast_2d(np.asarray(centres, float))
        halves = np.broadcast_to(np.asarray(halves, float), centres.shape)
        turned = np.broadcast_to(np.eye(3) if axes is None else axes, (len(centres), 3, 3))
        self._add(BOX, material, centres, halves, turned.reshape(-1, 9))

    def disc(self, centre: Point, normal: Point, radius: float, material: Material, hole: float = 0.0) -> None:
        """Add a disc, with a round hole if wanted; as a light it shines to its normal's side.

        Row: centre, normal, radius, radius of the hole.
        """
        self._add(DISC, material, [centre], [_unit(normal)], [[radius, hole]])

    def quads(self, corners: npt.ArrayLike, first: npt.ArrayLike, second: npt.ArrayLike, material: Material) -> None:
        """Add rectangles with edges `first` and `second` from a corner; as lights they shine to first x second.

        Row: corner, both edges, normal.
        """
        corners = np.atleast_2d(np.asarray(corners, float))
        first = np.broadcast_to(np.asarray(first, float), corners.shape)
        second = np.broadcast_to(np.asarray(second, float), corners.shape)
        normal = np.cross(first, second)
        self._add(QUAD, material, corners, first, second, normal / np.linalg.norm(normal, axis=1)[:, None])

    def cylinders(self, ends: npt.ArrayLike, tops: npt.ArrayLike, radii: npt.ArrayLike, material: Material) -> None:
        """Add closed cylinders between two points each. Row: end, unit axis, length, radius."""
        self._add_long(CYLINDER, ends, tops, radii, material)

    def capsules(self, ends: npt.ArrayLike, tops: npt.ArrayLike, radii: npt.ArrayLike, material: Material) -> None:
        """Add rods with round ends. Row as of cylinders."""
        self._add_long(CAPSULE, ends, tops, radii, material)

    def plane(self, point: Point, normal: Point, material: Material) -> None:
        """Add an endless plane. Row: point, normal. Only parts that do not move may hold one."""
        self._add(PLANE, material, [point], [_unit(normal)])

    def _add_long(
        self, kind: int, ends: npt.ArrayLike, tops: npt.ArrayLike, radii: npt.ArrayLike, material: Material
    ) -> None:
        ends = np.atleast_2d(np.asarray(ends, float))
        step = np.atleast_2d(np.asarray(tops, float)) - ends
        length = np.linalg.norm(step, axis=1)[:, None]
        radius = np.broadcast_to(np.asarray(radii, float), len(ends))[:, None]
        self._add(kind, material, ends, step / length, length, radius)

    def _add(self, kind: int, material: Material, *columns: npt.ArrayLike) -> None:
        block = np.concatenate([np.atleast_2d(np.asarray(column, float)) for column in columns], axis=1)
        rows = np.zeros((len(block), ROW))
        rows[:, : block.shape[1]] = block
        self.kinds.append(np.full(len(rows), kind, np.int8))
        self.rows.append(rows)
        self.materials.append((material, len(rows)))


def _unit(direction: Point) -> Floats:
    vector = np.asarray(direction, float)
    return np.asarray(vector / np.linalg.norm(vector))


def shape_bounds(kinds: npt.NDArray[np.int8], rows: Floats) -> Floats:
    """Return the boxes around shapes, as (N, 6): least corner, then greatest. Planes have no end.

    Parameters
    ----------
    kinds : (N,) ndarray
    rows : (N, ROW) ndarray
    """
    middle = rows[:, :3].copy()
    reach = np.full((len(rows), 3), np.inf)
    is_kind = {kind: kinds == kind for kind in (SPHERE, BOX, DISC, QUAD, CYLINDER, CAPSULE)}
    reach[is_kind[SPHERE]] = rows[is_kind[SPHERE], 3:4]
    box = rows[is_kind[BOX]]
    reach[is_kind[BOX]] = np.einsum("nk,nkc->nc", box[:, 3:6], np.abs(box[:, 6:15].reshape(-1, 3, 3)))
    disc = rows[is_kind[DISC]]
    reach[is_kind[DISC]] = disc[:, 6:7] * np.sqrt(np.maximum(0.0, 1 - disc[:, 3:6] ** 2))
    quad = rows[is_kind[QUAD]]
    middle[is_kind[QUAD]] += (quad[:, 3:6] + quad[:, 6:9]) / 2
    reach[is_kind[QUAD]] = (np.abs(quad[:, 3:6]) + np.abs(quad[:, 6:9])) / 2
    for kind in (CYLINDER, CAPSULE):
        row = rows[is_kind[kind]]
        half = row[:, 3:6] * row[:, 6:7] / 2
        middle[is_kind[kind]] += half
        around = row[:, 7:8] * (np.sqrt(np.maximum(0.0, 1 - row[:, 3:6] ** 2)) if kind == CYLINDER else 1.0)
        reach[is_kind[kind]] = np.abs(half) + around
    slack = 1e-9 * (1 + np.abs(middle))
    return np.concatenate([middle - reach - slack, middle + reach + slack], axis=1)
