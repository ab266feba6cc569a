"""Data of stages kept between frames: written by one frame, read by the next. Files only; no compiled code called."""

from collections.abc import Callable
from pathlib import Path
from typing import TypeVar

import numpy as np

from pemlo.core.errors import FileError
from pemlo_simulators.renderer.checked import LIGHTS, WORLD, Layout, read_arrays, see_lights, see_world
from pemlo_simulators.renderer.lights import Lights
from pemlo_simulators.renderer.world import World

T = TypeVar("T", World, Lights)


class KeptData:
    """A folder with what frames of one scene have kept. What is kept is used as it is, right or not.

    Parameters
    ----------
    folder : path
        Made when the first data come.
    scene : str
    """

    def __init__(self, folder: Path, scene: str) -> None:
        self._folder = folder
        self._scene = scene

    def has(self, stage: str) -> bool:
        """Whether data of a stage are there."""
        return self._path(stage).exists()

    def read_world(self) -> World | None:
        """Return the kept geometry, None if there is none."""
        return self._read("prepare", World, WORLD, see_world)

    def read_lights(self) -> Lights | None:
        """Return the kept lights, None if there are none."""
        return self._read("light", Lights, LIGHTS, see_lights)

    def write(self, stage: str, data: World | Lights) -> None:
        """Keep the data of a stage.

        Raises
        ------
        FileError
            If the folder cannot be written.
        """
        path = self._path(stage)
        try:
            self._folder.mkdir(parents=True, exist_ok=True)
            part = path.with_suffix(".part")
            with part.open("wb") as file:
                np.savez(file, **data._asdict())
            part.replace(path)
        except OSError as error:
            raise FileError(f"Cache cannot be written to {self._folder}: {error.strerror}.") from error

    def _path(self, stage: str) -> Path:
        return self._folder / f"{self._scene}.{stage}.npz"

    def _read(self, stage: str, kind: type[T], layout: Layout, see: Callable[[T], None]) -> T | None:
        path = self._path(stage)
        if not path.exists():
            return None
        try:
            kept, _ = read_arrays(path, kind, layout)
            see(kept)
        except (OSError, ValueError, KeyError) as error:
            raise FileError(f"Cache in {path} cannot be read.", "Remove the file, and they are made anew.") from error
        return kept
