"""Measures picture files: opens them, measures, and puts published scores beside. Files; may take seconds."""

from contextlib import ExitStack
from dataclasses import dataclass, field, replace
from pathlib import Path

from pemlo.core.errors import InputError
from pemlo.core.files.fingerprint import fingerprint
from pemlo.core.files.header import OURS
from pemlo.core.files.picture_file import PictureFile, ReadOptions
from pemlo.core.measure.frame import Measured, MeasureRequest, measure
from pemlo.core.measure.scores import Scores, flip, ssim_and_psnr
from pemlo.core.pixels.box import Box
from pemlo.core.pixels.display import Display, Srgb
from pemlo.core.pixels.source import Cropped, Source
from pemlo.core.progress import Monitor, Unwatched
from pemlo.core.project.viewing import pixels_per_degree, seen_size


@dataclass(frozen=True)
class ComparisonRequest:
    """What is asked of picture files.

    Attributes
    ----------
    picture : path
    second : path, optional
        The same with another seed.
    reference, reference_second : path, optional
        The cleanest picture of the frame, and the same with another seed.
    reading : ReadOptions
        How all of them are read.
    denoised : bool, optional
        None to believe the header.
    alike : bool
        Whether the reference was rendered with the same switches.
    display : Display
    seen_from : str
        From where the picture is seen, for ꟻLIP: a seat, or pixels a degree as a number.
    as_seen : bool
        Whether grain and error are of the picture as small as an eye sees it there.
    region : tuple of int, optional
        Left, top, right, bottom, in px of the reference, or of the picture without one.
    """

    picture: Path
    second: Path | None = None
    reference: Path | None = None
    reference_second: Path | None = None
    reading: ReadOptions = field(default_factory=ReadOptions)
    denoised: bool | None = None
    alike: bool = True
    display: Display = field(default_factory=Srgb)
    seen_from: str = "desk"
    as_seen: bool = False
    region: Box | None = None


@dataclass(frozen=True)
class PictureComparison:
    """What was measured; `scores` only with a reference. `denoised` is what was taken for true."""

    measured: Measured
    scores: Scores | None
    pixels_per_degree: float
    denoised: bool | None


def was_denoised(picture: PictureFile) -> bool | None:
    """Whether a picture's own header says that it was denoised; None if it says nothing of it."""
    said = picture.header.attributes.get(f"{OURS}denoise")
    return None if said is None else said != "none"


def compare(
    question: ComparisonRequest, monitor: Monitor | None = None, *, with_scores: bool = True
) -> PictureComparison:
    """Measure picture files.

    Raises
    ------
    FileError
        If one cannot be read.
    InputError
        If they do not show the same frame, the region is not in it, or two that must differ have the same seed.
    Cancelled
        From the monitor.
    """
    watch = monitor or Unwatched()
    with ExitStack() as files:

        def opened(path: Path | None) -> PictureFile | None:
            return None if path is None else files.enter_context(PictureFile(path, question.reading))

        picture = files.enter_context(PictureFile(question.picture, question.reading))
        second, reference, other = map(opened, (question.second, question.reference, question.reference_second))
        see_two_seeds(picture, second)
        if reference is not None:
            see_two_seeds(reference, other)
        full = (reference or picture).size
        denoised = was_denoised(picture) if question.denoised is None else question.denoised
        degree = pixels_per_degree(question.seen_from, full[0])
        parts = [_part(picture_file, question.region, full) for picture_file in (picture, second, reference, other)]
        assert parts[0] is not None
        size = (parts[2] or parts[0]).size
        asked = MeasureRequest(
            parts[0], parts[1], parts[2], parts[3], denoised, question.alike,
            seen_size(size, degree) if question.as_seen else size, question.display,
        )  # fmt: skip
        picture_comparison = PictureComparison(measure(asked, watch), None, degree, denoised)
    return scored(question, picture_comparison, watch) if with_scores else picture_comparison


def see_two_seeds(picture_file: PictureFile, other: PictureFile | None) -> None:
    """Refuse a picture as another seed of the same if it is the same: they would say that there is no noise.

    Raises
    ------
    InputError
    """
    if other is None:
        return
    hint = "Render the frame once more with another seed."
    if picture_file.path.samefile(other.path) or (
        picture_file.size == other.size and fingerprint(picture_file.path) == fingerprint(other.path)
    ):
        raise InputError(
            f"{other.path.name} is the same picture as {picture_file.path.name}, and tells nothing of noise.", hint
        )
    seeds = [file.header.attributes.get(f"{OURS}seed") for file in (picture_file, other)]
    if None not in seeds and seeds[0] == seeds[1]:
        raise InputError(
            f"{other.path.name} was rendered with the same seed as {picture_file.path.name} ({seeds[0]}).", hint
        )


def scored(
    question: ComparisonRequest, picture_comparison: PictureComparison, monitor: Monitor | None = None
) -> PictureComparison:
    """Return an answer with published scores, if there is a reference; raises as `compare`."""
    if question.reference is None:
        return picture_comparison
    with (
        PictureFile(question.picture, question.reading) as picture_file,
        PictureFile(question.reference, question.reading) as other,
    ):
        picture, reference = (_part(file, question.region, other.size) for file in (picture_file, other))
        assert picture is not None
        assert reference is not None
        alike = ssim_and_psnr(picture, reference, question.display, monitor)
        seen = flip(picture, reference, question.display, picture_comparison.pixels_per_degree, monitor)
        return replace(picture_comparison, scores=Scores(*alike, seen))


def part_of(question: ComparisonRequest) -> Box | None:
    """Return the region of a question in px of its picture, which may be smaller than the reference.

    Raises
    ------
    FileError
        If a picture cannot be read.
    """
    if question.region is None:
        return None
    with PictureFile(question.picture) as picture, PictureFile(question.reference or question.picture) as reference:
        part = _part(picture, question.region, reference.size)
        return part.box if isinstance(part, Cropped) else None


def _part(picture: PictureFile | None, region: Box | None, full: tuple[int, int]) -> Source | None:
    """Return a part of a picture, which may be smaller than the one that the region is given for."""
    if picture is None or region is None:
        return picture
    left, top, right, bottom = region
    if not (0 <= left < right <= full[0] and 0 <= top < bottom <= full[1]):
        raise InputError(
            f"The region {left},{top},{right},{bottom} is not inside the picture of {full[0]}×{full[1]} px."
        )
    across, down = picture.size[0] / full[0], picture.size[1] / full[1]
    first = round(left * across), round(top * down)
    last = max(round(right * across), first[0] + 1), max(round(bottom * down), first[1] + 1)
    return Cropped(picture, (*first, min(last[0], picture.size[0]), min(last[1], picture.size[1])))
