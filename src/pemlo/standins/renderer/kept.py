"""Data of stages kept between frames: written by one frame, read by the next. Files only; no compiled code called."""

from pathlib import Path

import numpy as np

from pemlo.core.errors import FileError
from pemlo.standins.renderer.lights import Lights
from pemlo.standins.renderer.world import World


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
        kept = self._read("prepare", World)
        return kept if isinstance(kept, World) else None

    def read_lights(self) -> Lights | None:
        """Return the kept lights, None if there are none."""
        kept = self._read("light", Lights)
        return kept if isinstance(kept, Lights) else None

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
            raise FileError(f"Kept data cannot be written to {self._folder}: {error.strerror}.") from error

    def _path(self, stage: str) -> Path:
        return self._folder / f"{self._scene}.{stage}.npz"

    def _read(self, stage: str, kind: type[World] | type[Lights]) -> World | Lights | None:
        path = self._path(stage)
        if not path.exists():
            return None
        try:
            with np.load(path) as file:
                arrays = {name: file[name] for name in kind._fields}
                return kind(**arrays)
        except (OSError, ValueError, KeyError) as error:
            raise FileError(
                f"Kept data in {path} cannot be read.", "Remove the file, and they are made anew."
            ) from error
