"""The two pictures that are looked at, and what is asked of them. Qt-free."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

from pemlo.core.pixels.box import Box
from pemlo.core.project.settings import NO_DENOISE, FrameSettings
from pemlo.gui.judge.measure.measuring import MeasureConditions
from pemlo.gui.judge.presenter import PictureChoice, reference_of, second_of

if TYPE_CHECKING:
    from pemlo.core.appraisal.frame_appearance import TrialPicture
    from pemlo.core.appraisal.picture_comparison import ComparisonRequest


@dataclass(frozen=True)
class Pair:
    """A left and a right picture, and all trials among which references and twins are found."""

    left: PictureChoice | None = None
    right: PictureChoice | None = None
    among: tuple[PictureChoice, ...] = ()

    def reference(self, of: PictureChoice | None = None) -> PictureChoice | None:
        """Return what a picture is held against: the cleanest trial of its frame, or for a file the right picture.

        The left picture is meant unless another is given.
        """
        picture = of or self.left
        if picture is None:
            return None
        if picture.trial is None:
            return self.right if self.right is not None and self.right.path != picture.path else None
        return reference_of(picture, self.among)

    def question(
        self, how: MeasureConditions, region: Box | None = None, of: PictureChoice | None = None
    ) -> "ComparisonRequest | None":
        """Return what is to be measured of a picture, or of a region of it; None if there is no picture."""
        picture = of or self.left
        if picture is None:
            return None
        from pemlo.core.appraisal.picture_comparison import ComparisonRequest  # noqa: PLC0415 - heavy to load

        reference, second = self.reference(picture), second_of(picture, self.among)
        other = None if reference is None else second_of(reference, self.among)
        return ComparisonRequest(
            picture.path,
            None if second is None else second.path,
            None if reference is None else reference.path,
            None if other is None else other.path,
            how.reading,
            denoised=None if picture.trial is None else picture.trial.denoise != NO_DENOISE,
            alike=_alike(picture, reference),
            display=how.display,
            seen_from=how.seen_from,
            as_seen=how.as_seen,
            region=region,
        )

    def pictured(self) -> "tuple[tuple[PictureChoice, ...], TrialPicture, tuple[TrialPicture, ...]] | None":
        """Return all trials of the frame but its reference, and what tells how the frame looks; None for a file."""
        if self.left is None or self.left.trial is None:
            return None
        reference = self.reference() or self.left
        others = tuple(choice for choice in self.of_frame() if choice.path != reference.path)
        return others, self._pictured(reference), tuple(map(self._pictured, others))

    def _pictured(self, choice: PictureChoice) -> "TrialPicture":
        from pemlo.core.appraisal.frame_appearance import TrialPicture  # noqa: PLC0415 - heavy to load

        trial, second = choice.trial, second_of(choice, self.among)
        assert trial is not None
        settings = FrameSettings.model_validate(trial.frame_fields())
        samples = float(trial.mean_samples or trial.samples)
        return TrialPicture(choice.path, settings, samples, None if second is None else second.path)

    def of_frame(self) -> tuple[PictureChoice, ...]:
        """Return all trials of the frame of the left picture."""
        trial = None if self.left is None else self.left.trial
        return (
            ()
            if trial is None
            else tuple(choice for choice in self.among if choice.trial and choice.trial.frame == trial.frame)
        )


def _alike(picture: PictureChoice, reference: PictureChoice | None) -> bool:
    """Whether a picture and its reference were rendered with the same switches, as far as that is known."""
    if reference is None or picture.trial is None or reference.trial is None:
        return True
    return picture.trial.switched == reference.trial.switched
