"""A scene: what a shot shows, frame by frame. Scenes themselves are in `scenes/`."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from pemlo.core.arrays import Floats
from pemlo_simulators.renderer.camera import Camera
from pemlo_simulators.renderer.light_stage import Room
from pemlo_simulators.renderer.shapes import Part

SHUTTER = 0.5  # of a frame: the half turn of a classic film camera


@dataclass(frozen=True)
class Scene:
    """A shot as the renderer knows it. Frames count from 1; functions take frames as a number with fractions.

    Attributes
    ----------
    name : str
        Short and unique.
    title : str
        For people.
    frames : int
    moves : tuple of str
        What moves: camera, lights, objects, materials, simulation.
    build : callable
        From the frames at which the shutter opens and closes to the parts of the scene.
    camera : callable
        From a frame to the camera.
    sky : callable
        From a frame to radiance (4, 3): up, horizon, down, stars.
    room : Room
    bounces : int
    exposure, cap : float
        See `paths.Rules`.
    """

    name: str
    title: str
    frames: int
    moves: tuple[str, ...]
    build: Callable[[float, float], Sequence[Part]]
    camera: Callable[[float], Camera]
    sky: Callable[[float], Floats]
    room: Room
    bounces: int = 6
    exposure: float = 1.0
    cap: float = 5.0

    def shutter(self, frame: int, *, blur: bool = True) -> tuple[float, float]:
        """Return when the shutter opens and closes; without blur it closes at once."""
        return frame - SHUTTER / 2, frame + SHUTTER / 2 if blur else frame - SHUTTER / 2

    def cameras(self, frame: int, aspect: float, *, blur: bool = True) -> Floats:
        """Return the camera's numbers when the shutter opens and when it closes, (2, camera.ROW)."""
        return np.array([self.camera(at).row(aspect) for at in self.shutter(frame, blur=blur)])


def dark_sky(up: float = 0.0, horizon: float = 0.0) -> Floats:
    """Return a grey sky without stars."""
    return np.array([[up] * 3, [horizon] * 3, [0.0] * 3, [0.0] * 3])
