"""The camera: a thin lens that may move while its shutter is open."""

import math
from dataclasses import dataclass

import numpy as np

from pemlo.core.arrays import Floats
from pemlo_simulators.renderer.compiled import compiled
from pemlo_simulators.renderer.dice import Dice, roll
from pemlo_simulators.renderer.shapes import Point
from pemlo_simulators.renderer.vectors import Vector, add, along, on_circle, times, unit

ROW = 14


@dataclass(frozen=True)
class Camera:
    """Where the camera stands and what it looks at.

    Attributes
    ----------
    position, target : tuple of float
        Metres; the third part is height.
    width_degrees : float
        Field of view across the picture.
    lens_radius : float
        Metres; 0 is sharp everywhere.
    focus : float, optional
        Distance that is sharp, metres; that of the target if not given.
    """

    position: Point
    target: Point
    width_degrees: float = 40.0
    lens_radius: float = 0.0
    focus: float | None = None

    def row(self, aspect: float) -> Floats:
        """Return the camera as `ROW` numbers: origin, forward, right and up to the picture's edges, lens, focus."""
        origin = np.asarray(self.position, float)
        step = np.asarray(self.target, float) - origin
        distance = float(np.linalg.norm(step))
        forward = step / distance
        right = np.cross(forward, [0.0, 0.0, 1.0])
        right /= np.linalg.norm(right)
        half = math.tan(math.radians(self.width_degrees) / 2)
        up = np.cross(right, forward)
        return np.concatenate(
            [origin, forward, right * half, up * half / aspect, [self.lens_radius, self.focus or distance]]
        )


@compiled
def _mix(camera: Floats, time: float, column: int) -> float:
    return camera[0, column] + time * (camera[1, column] - camera[0, column])


@compiled
def _at(camera: Floats, time: float, first: int) -> Vector:
    return (_mix(camera, time, first), _mix(camera, time, first + 1), _mix(camera, time, first + 2))


@compiled
def aim(camera: Floats, x: float, y: float, time: float, dice: Dice) -> tuple[Vector, Vector]:
    """Return the ray through a point of the picture.

    Parameters
    ----------
    camera : (2, ROW) ndarray
        When the shutter opens and when it closes.
    x, y : float
        From -1 (left, bottom) to 1 (right, top).
    time : float
        0 when the shutter opens, 1 when it closes.

    Returns
    -------
    origin, direction : tuple of float
        The direction is a unit vector.
    """
    origin, forward = _at(camera, time, 0), _at(camera, time, 3)
    right, up = _at(camera, time, 6), _at(camera, time, 9)
    d = along(along(forward, right, x), up, y)
    lens, focus = _mix(camera, time, 12), _mix(camera, time, 13)
    if lens > 0.0:
        # Through a point of the lens to the point of the plane in focus.
        radius, (c, s) = lens * math.sqrt(roll(dice)), on_circle(roll(dice))
        off = along(times(unit(right), radius * c), unit(up), radius * s)
        origin, d = add(origin, off), along(d, off, -1.0 / focus)
    return origin, unit(d)
