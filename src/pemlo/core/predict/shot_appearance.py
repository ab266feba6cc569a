"""What is known of how a shot looks: of one of its frames, which stands for the others. Holds names of pictures."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path

from pemlo.core.pixels.box import Box
from pemlo.core.predict.error_model import ErrorModel
from pemlo.core.project.settings import FrameSettings


@dataclass(frozen=True)
class PictureSample:
    """A picture of the frame, its error against the reference, and what noise the reference has; display codes."""

    path: Path
    settings: FrameSettings
    error: float
    reference_noise: float = 0.0

    def times(self, error: float) -> float:
        """Return by how much its difference to the reference is more or less in a picture of another error.

        The noise of the reference is in both differences.
        """
        own = self.reference_noise**2
        return float(((error**2 + own) / (self.error**2 + own)) ** 0.5)


@dataclass(frozen=True)
class FramePictures:
    """Where the frame can be looked at.

    Attributes
    ----------
    reference : path
        Its cleanest picture.
    samples : tuple of PictureSample
        Others of the same size.
    worst : tuple of int
        Where the noisiest of them errs most: left, top, right, bottom, px.
    run : mapping of int to path
        Pictures of consecutive frames with equal settings, if some are there.
    """

    reference: Path
    samples: tuple[PictureSample, ...]
    worst: Box
    run: Mapping[int, Path] = field(default_factory=dict)


@dataclass(frozen=True)
class ShotAppearance:
    """How a shot looks, and what is known of leaving frames out.

    Attributes
    ----------
    frame : int
        That was looked at.
    percent : float
        Of the delivery's size that its pictures have; 100 % of it is taken to err as they do.
    error_model : ErrorModel
    stepping : mapping of str to float
        Error of every second frame, codes, by what is shown between: ``hold``, ``blend``; empty if it is not known.
    pictures : FramePictures, optional
    """

    frame: int
    percent: float
    error_model: ErrorModel
    stepping: Mapping[str, float]
    pictures: FramePictures | None = None


Appearances = Mapping[str, ShotAppearance]
