"""Other shapes of the film's frame, such as square or upright: their sizes, and shots that are rendered so too. Pure.

Cropped from finished frames another shape costs nothing, and shows a part of them; rendered anew it shows what its
camera sees, at all of its pixels.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from pemlo.core.errors import InputError
from pemlo.core.project.edits import add_shots
from pemlo.core.project.project import Project

# Width over height (common practice, no source).
SHAPES: Mapping[str, float] = {"square": 1.0, "upright": 9 / 16, "tall": 4 / 5, "wide": 16 / 9}


@dataclass(frozen=True)
class Reframed:
    """Another shape of a frame.

    Attributes
    ----------
    shape : str
    size : tuple of int
        Width and height, px: the shorter side of the film, the longer one by the shape.
    crop : tuple of int
        What a crop out of the film's frame has, px.
    share : float
        Of the film's frame that the crop shows, 0 to 1.
    """

    shape: str
    size: tuple[int, int]
    crop: tuple[int, int]
    share: float


def reframed(size: tuple[int, int], shape: str) -> Reframed:
    """Return a size in another shape.

    Examples
    --------
    >>> reframed((1920, 1080), "square").size, reframed((1920, 1080), "upright").size
    ((1080, 1080), (1080, 1920))
    >>> reframed((1920, 1080), "upright").crop, round(reframed((1920, 1080), "square").share, 4)
    ((608, 1080), 0.5625)
    """
    ratio = SHAPES[shape]
    short = min(size)
    new = (_even(short * max(ratio, 1.0)), _even(short / min(ratio, 1.0)))
    wide = ratio >= size[0] / size[1]
    crop = (size[0], _even(size[0] / ratio)) if wide else (_even(size[1] * ratio), size[1])
    return Reframed(shape, new, crop, crop[0] * crop[1] / (size[0] * size[1]))


def _even(length: float) -> int:
    return max(2, 2 * round(length / 2))


def with_reframed(project: Project, shape: str) -> Project:
    """Return a film with every shot once more in another shape; each copy has the times of its shot.

    Layers stay with their shots: films with layers are not reframed.

    Raises
    ------
    InputError
        If all shots are there in that shape, or the film has layers.
    """
    if any(shot.part_of for shot in project.shots):
        raise InputError("Shots with layers cannot be copied in another shape.", "Add the shots by hand.")
    names = {shot.name for shot in project.shots}
    copies = {}
    for shot in project.shots:
        name = f"{shot.name} {shape}"
        if shot.name.endswith(f" {shape}") or name in names:
            continue
        width, height = reframed(project.size_of(shot), shape).size
        copies[shot.name] = shot.replace(name=name, width=width, height=height)
    if not copies:
        raise InputError(f"Every shot exists as {shape}.")
    trials = tuple(
        trial.replace(shot=copies[trial.shot].name, picture="", mark="", error=None, note=f"time of {trial.shot}")
        for trial in project.trials
        if trial.shot in copies and trial.region_percent is None
    )
    grown = add_shots(project, tuple(copies.values()))
    return grown.replace(trials=(*grown.trials, *trials))


def only_reframed(project: Project, shape: str) -> Project:
    """Return the film rendered in another shape in place of its own: shots keep their names and times."""
    shots = []
    for shot in project.shots:
        width, height = reframed(project.size_of(shot), shape).size
        shots.append(shot.replace(width=width, height=height))
    return project.replace(shots=tuple(shots))


def reframed_words(size: tuple[int, int], shape: str) -> str:
    """Return what a shape is, and what a crop would show.

    Examples
    --------
    >>> reframed_words((1920, 1080), "square")
    'square: 1080×1080 px. Cropped from the film: no render, 1080×1080 px, 56 % of the frame.'
    """
    found = reframed(size, shape)
    new, crop = ("×".join(map(str, one)) for one in (found.size, found.crop))
    return f"{shape}: {new} px. Cropped from the film: no render, {crop} px, {100 * found.share:.0f} % of the frame."
