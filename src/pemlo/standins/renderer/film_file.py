"""Keeps a film's sums in a file, so that a frame can be topped up later. Files only."""

import json
from dataclasses import asdict, replace
from pathlib import Path

import numpy as np

from pemlo.core.errors import FileError, InputError
from pemlo.standins.renderer.checked import FILM, read_arrays, see_film
from pemlo.standins.renderer.film import Sums, blank_film
from pemlo.standins.renderer.settings import RenderSettings


def write_film(path: Path, settings: RenderSettings, film: Sums) -> None:
    """Write a film and what it is of.

    Raises
    ------
    FileError
        If it cannot be written.
    """
    part = path.with_name(f".{path.name}.part")
    try:
        with part.open("wb") as file:
            np.savez(file, of=np.array(_what_it_is_of(settings)), **film._asdict())
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
    if not path.exists():
        return None
    try:
        film, others = read_arrays(path, Sums, FILM)
        of = str(others["of"])
    except (OSError, ValueError, KeyError) as error:
        raise FileError(f"{path} holds no sums of samples that can be read.", "Name another file.") from error
    if of != _what_it_is_of(settings):
        raise InputError(
            f"The sums of samples in {path} are of another frame, or rendered in another way.",
            "Only samples, threshold, time, denoising and threads may differ.",
        )
    try:
        see_film(film, blank_film(settings))
    except ValueError as error:
        raise FileError(f"{path} holds no sums of samples that can be read.", "Name another file.") from error
    return film


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
