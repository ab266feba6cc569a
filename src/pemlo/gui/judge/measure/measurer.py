"""Measures pictures in the background: numbers first, published scores after, each once. GUI thread."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from pemlo.app.file_facts import FileFacts
from pemlo.app.jobs import Jobs
from pemlo.core.progress import Monitor
from pemlo.gui.judge.measure.measuring import MeasureConditions

if TYPE_CHECKING:
    from pemlo.core.appraisal.frame_appearance import FrameAppearance, TrialPicture
    from pemlo.core.appraisal.noise_sources import Sources
    from pemlo.core.appraisal.picture_comparison import ComparisonRequest, PictureComparison

NUMBERS, OTHER, SCORES, REGION = "judge numbers", "judge other numbers", "judge scores", "judge region"
APPEARANCE, SOURCES = "judge look", "judge sources"
_MOST_KEPT, _MOST_APPEARANCES = 400, 40
Key = tuple[object, ...]


class Measurer(QObject):
    """Answers questions about picture files; one that was written anew is measured anew.

    Signals
    -------
    measured(ComparisonRequest, PictureComparison)
        Numbers without scores, or with them when those are ready too.
    region_measured(ComparisonRequest, PictureComparison, Sources)
        Of a region: numbers, and where its noise comes from if the picture tells.
    """

    measured = Signal(object, object)
    region_measured = Signal(object, object, object)

    def __init__(self, jobs: Jobs, written: FileFacts) -> None:
        super().__init__()
        self._jobs, self._written = jobs, written
        self._kept: dict[Key, PictureComparison] = {}
        self._appearances: dict[Key, FrameAppearance] = {}

    def ask(self, question: "ComparisonRequest", *, scores: bool) -> None:
        """Measure, and tell when it is done; at once if it was measured before."""
        key = self._key(question)
        picture_comparison = self._kept.get(key)
        if picture_comparison is not None:
            self._jobs.cancel(NUMBERS)
            self.measured.emit(question, picture_comparison)
            if picture_comparison.scores is None and scores:
                self._ask_scores(question, key, picture_comparison)
            return

        def work(monitor: Monitor) -> "PictureComparison":
            from pemlo.core.appraisal.picture_comparison import compare  # noqa: PLC0415 - heavy to load

            return compare(question, monitor, with_scores=False)

        def done(found: "PictureComparison") -> None:
            self._keep(key, found)
            self.measured.emit(question, found)
            if scores:
                self._ask_scores(question, key, found)

        self._jobs.cancel(SCORES)
        self._jobs.submit(NUMBERS, "Measuring", work, done)

    def ask_other(self, question: "ComparisonRequest") -> None:
        """Measure another picture too, to be asked for with `known`."""
        key = self._key(question)

        def work(monitor: Monitor) -> "PictureComparison":
            from pemlo.core.appraisal.picture_comparison import compare  # noqa: PLC0415 - heavy to load

            return compare(question, monitor, with_scores=False)

        if key not in self._kept:
            self._jobs.submit(OTHER, "Measuring", work, lambda found: self._keep(key, found))

    def known(self, question: "ComparisonRequest") -> "PictureComparison | None":
        """Return what was measured before."""
        return self._kept.get(self._key(question))

    def _ask_scores(self, question: "ComparisonRequest", key: Key, picture_comparison: "PictureComparison") -> None:
        if question.reference is None:
            return

        def work(monitor: Monitor) -> "PictureComparison":
            from pemlo.core.appraisal.picture_comparison import scored  # noqa: PLC0415 - heavy to load

            return scored(question, picture_comparison, monitor)

        def done(more: "PictureComparison") -> None:
            self._keep(key, more)
            self.measured.emit(question, more)

        self._jobs.submit(SCORES, "Comparing as an eye does", work, done)

    def ask_region(self, question: "ComparisonRequest") -> None:
        """Measure a part of a picture."""

        def work(monitor: Monitor) -> "tuple[PictureComparison, Sources | None]":
            from pemlo.core.appraisal.noise_sources import sources_of  # noqa: PLC0415 - as above
            from pemlo.core.appraisal.picture_comparison import compare, part_of  # noqa: PLC0415 - heavy to load

            found = compare(question, monitor, with_scores=False)
            part = part_of(question)
            return found, sources_of(question.picture, question.display, question.second, part, question.reading)

        def done(found: "tuple[PictureComparison, Sources | None]") -> None:
            self.region_measured.emit(question, *found)

        self._jobs.submit(REGION, "Measuring the region", work, done)

    def ask_appearance(
        self,
        reference: "TrialPicture",
        others: "tuple[TrialPicture, ...]",
        how: MeasureConditions,
        take: "Callable[[FrameAppearance], None]",
    ) -> None:
        """Find out how a frame looks."""
        key = (
            reference,
            others,
            how,
            *(self._written.of(trial_picture.path) for trial_picture in (reference, *others)),
        )
        if key in self._appearances:
            take(self._appearances[key])
            return

        def work(monitor: Monitor) -> "FrameAppearance":
            from pemlo.core.appraisal.frame_appearance import appraise_frame  # noqa: PLC0415 - heavy to load

            return appraise_frame(reference, others, how.display, how.reading, monitor)

        def done(found: "FrameAppearance") -> None:
            self._appearances[key] = found
            while len(self._appearances) > _MOST_APPEARANCES:
                del self._appearances[next(iter(self._appearances))]
            take(found)

        self._jobs.submit(APPEARANCE, "Finding out how the frame looks", work, done)

    def ask_sources(self, question: "ComparisonRequest", take: "Callable[[Sources | None], None]") -> None:
        """Find where the noise of a picture comes from."""

        def work(monitor: Monitor) -> "Sources | None":
            from pemlo.core.appraisal.noise_sources import sources_of  # noqa: PLC0415 - heavy to load

            monitor.step(0.0, "Finding where the noise comes from")
            return sources_of(question.picture, question.display, question.second, reading=question.reading)

        self._jobs.submit(SOURCES, "Finding where the noise comes from", work, take)

    def _keep(self, key: Key, picture_comparison: "PictureComparison") -> None:
        self._kept[key] = picture_comparison
        while len(self._kept) > _MOST_KEPT:
            del self._kept[next(iter(self._kept))]

    def _key(self, question: "ComparisonRequest") -> Key:
        """Return what an answer depends on."""
        return question, tuple(map(self._written.of, files_of(question)))


def files_of(question: "ComparisonRequest | None") -> tuple[Path, ...]:
    """Return the files that a question is about."""
    if question is None:
        return ()
    files = (question.picture, question.second, question.reference, question.reference_second)
    return tuple(file for file in files if file is not None)
