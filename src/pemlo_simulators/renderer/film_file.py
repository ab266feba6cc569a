"""Keeps a film's sums in a file, so that a frame can be topped up later. Files only."""

import json
from dataclasses import asdict, replace
from pathlib import Path

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.errors import FileError, InputError
from pemlo_simulators.renderer.checked import DAMAGED, FILM, read_arrays, see_film
from pemlo_simulators.renderer.clock import STAGES, Clock
from pemlo_simulators.renderer.film import Sums, blank_film
from pemlo_simulators.renderer.settings import RenderSettings


def write_film(path: Path, settings: RenderSettings, film: Sums, clock: Clock | None = None) -> None:
    """Write a film and what it is of; of an unfinished frame also what it took so far.

    Raises
    ------
    FileError
        If it cannot be written.
    """
    part = path.with_name(f".{path.name}.part")
    try:
        with part.open("wb") as file:
            took = [] if clock is None else [list(clock.wall.values()), list(clock.processor.values())]
            np.savez(file, of=np.array(_what_it_is_of(settings)), took=np.array(took, float), **film._asdict())
        part.replace(path)
    except OSError as error:
        part.unlink(missing_ok=True)
        raise FileError(f"The sums of samples cannot be written to {path}: {error.strerror}.") from error


def read_film(path: Path, settings: RenderSettings) -> Sums | None:
    """Return the film in a file, None if there is no file.

    Raises
    ------
    FileError
        If it cannot be read.
    InputError
        If it is of another frame, or rendered in another way.
    """
    found = _read(path, settings) if path.exists() else None
    return None if found is None else found[0]


def read_unfinished(path: Path, settings: RenderSettings) -> tuple[Sums, Clock] | None:
    """Return the film of an unfinished frame and what it took so far, None if there is no file.

    Raises
    ------
    FileError, InputError
        As `read_film`.
    """
    if not path.exists():
        return None
    film, took = _read(path, settings)
    if took.shape != (2, len(STAGES)) or not np.isfinite(took).all() or (took < 0).any():
        raise _unreadable(path)
    wall, processor = (dict(zip(STAGES, map(float, row), strict=True)) for row in took)
    return film, Clock(wall, processor)


def seed_of(path: Path) -> int | None:
    """Return with which seed the frame of a file was rendered, None if that is not known."""
    try:
        with np.load(path, allow_pickle=False) as file:
            seed = json.loads(str(file["of"]))["seed"]
    except (OSError, ValueError, KeyError, TypeError, *DAMAGED):
        return None
    return seed if isinstance(seed, int) else None


def _read(path: Path, settings: RenderSettings) -> tuple[Sums, Floats]:
    try:
        film, others = read_arrays(path, Sums, FILM)
        of, took = str(others["of"]), np.asarray(others.get("took", np.zeros(0)), float)
    except (OSError, ValueError, KeyError) as error:
        raise _unreadable(path) from error
    if of != _what_it_is_of(settings):
        raise InputError(
            f"The sums of samples in {path} are of another frame, or rendered in another way.",
            "Only samples, threshold, time, denoising and threads may differ.",
        )
    try:
        see_film(film, blank_film(settings))
    except ValueError as error:
        raise _unreadable(path) from error
    return film, took


def _unreadable(path: Path) -> FileError:
    return FileError(f"{path} holds no sums of samples that can be read.", "Name another file.")


def _what_it_is_of(settings: RenderSettings) -> str:
    free = RenderSettings("")
    fixed = replace(
        settings,
        samples=free.samples,
        min_samples=free.min_samples,
        noise_threshold=None,
        seconds=None,
        denoise=free.denoise,
        threads=free.threads,
        half=free.half,
        saves=free.saves,
    )
    return json.dumps(asdict(fixed))
