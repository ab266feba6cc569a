"""The worst spots of the worst shots, as asked and as planned, small enough for a page. Files; a second each."""

import io
from collections.abc import Mapping
from dataclasses import dataclass

from pemlo.core.appraisal.preview import make_preview
from pemlo.core.errors import FileError, InputError
from pemlo.core.files.loading import load_part
from pemlo.core.files.picture_file import ReadOptions
from pemlo.core.files.small import display_codes
from pemlo.core.pixels.box import Box
from pemlo.core.pixels.source import F32
from pemlo.core.predict.shot_appearance import ShotAppearance
from pemlo.core.project.project import Project
from pemlo.core.project.settings import FrameSettings, ShotSettings
from pemlo.core.project.spelling import settings_words
from pemlo.core.trade.options import Numbers

WIDE, HIGH = 184, 88  # px of the frame
_QUALITY = 92


@dataclass(frozen=True)
class Spot:
    """Part of a frame as asked and as planned: JPEG files, and what each is.

    Attributes
    ----------
    shot : str
    frame : int
    asked, planned : bytes
    asked_words, planned_words : str
    error : float
        Predicted for the plan, display codes.
    """

    shot: str
    frame: int
    asked: bytes
    planned: bytes
    asked_words: str
    planned_words: str
    error: float


def spots_of(
    project: Project,
    looks: Mapping[str, ShotAppearance],
    numbers: Mapping[str, Numbers],
    asked_spent: Mapping[str, float],
    most: int,
) -> tuple[Spot, ...]:
    """Return the worst spots of the shots that err most as planned; of those that the plan changes first.

    Parameters
    ----------
    project : Project
    looks : mapping of str to ShotAppearance
    numbers : mapping of str to Numbers
        Of shots as planned.
    asked_spent : mapping of str to float
        Mean samples a pixel as asked.
    most : int
        So many at most.
    """
    errors = {name: one.found.total.middle for name, one in numbers.items() if one.found is not None and name in looks}
    spots: list[Spot] = []
    same = {shot.name: shot.settings == shot.asked for shot in project.shots}
    for name in sorted(errors, key=lambda name: (same[name], -errors[name])):
        spot = _spot(project, looks[name], name, numbers[name].spent, asked_spent[name], errors[name])
        if spot is not None:
            spots.append(spot)
        if len(spots) == most:
            break
    return tuple(spots)


def _spot(
    project: Project, look: ShotAppearance, name: str, spent: float, asked_spent: float, error: float
) -> Spot | None:
    shot, pictures = project.shot(name), look.pictures
    if pictures is None:
        return None
    box = _around(pictures.worst, look.error_model.size)
    try:
        asked = _part(look, shot.asked, asked_spent, box)
        planned = _part(look, shot.settings, spent, box)
    except (FileError, InputError):  # a picture that is gone leaves the page without it
        return None
    if asked is None or planned is None:
        return None
    return Spot(name, look.frame, _jpeg(asked[0]), _jpeg(planned[0]), asked[1], planned[1], error)


def _part(look: ShotAppearance, settings: ShotSettings, spent: float, box: Box) -> tuple[F32, str] | None:
    """Return a part of a frame with settings: of the trial that was rendered so, else as it is predicted."""
    assert look.pictures is not None
    wanted = FrameSettings.model_validate(settings.frame_fields())
    words = settings_words(settings)
    for sample in look.pictures.samples:
        if sample.settings == wanted:
            return load_part(sample.path, ReadOptions(), look.error_model.size, box), f"rendered: {words}"
    preview = make_preview(look.error_model, look.pictures, settings, spent, box)
    return None if preview is None else (preview.predicted, f"predicted, no render: {words}")


def _around(worst: Box, size: tuple[int, int]) -> Box:
    """Return a part around the worst spot, inside of the picture."""
    wide, high = min(WIDE, size[0]), min(HIGH, size[1])
    left = round(min(max((worst[0] + worst[2] - wide) / 2, 0), size[0] - wide))
    top = round(min(max((worst[1] + worst[3] - high) / 2, 0), size[1] - high))
    return left, top, left + wide, top + high


def _jpeg(colour: F32) -> bytes:
    from PIL import Image  # noqa: PLC0415 - only where a page is made

    file = io.BytesIO()
    Image.fromarray(display_codes(colour)).save(file, "JPEG", quality=_QUALITY, subsampling=0)
    return file.getvalue()
