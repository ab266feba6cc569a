"""Measures pictures in the background: numbers first, published scores after, each once. GUI thread."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from pemlo.app.jobs import Jobs
from pemlo.core.progress import Monitor
from pemlo.gui.judge.measuring import Measuring

if TYPE_CHECKING:
    from pemlo.core.images.comparing import Answer, Question
    from pemlo.core.images.sources import Sources
    from pemlo.core.picture.laws import GrainCurve

NUMBERS, OTHER, SCORES, REGION = "judge numbers", "judge other numbers", "judge scores", "judge region"
CURVE, SOURCES = "judge curve", "judge sources"
_MOST_KEPT = 400
Key = tuple[object, ...]


class Measurer(QObject):
    """Answers questions about picture files.

    Signals
    -------
    measured(Question, Answer)
        Numbers without scores, or with them when those are ready too.
    region_measured(Question, Answer, Sources)
        Of a region: numbers, and where its noise comes from if the picture tells.
    """

    measured = Signal(object, object)
    region_measured = Signal(object, object, object)

    def __init__(self, jobs: Jobs) -> None:
        super().__init__()
        self._jobs = jobs
        self._kept: dict[Key, Answer] = {}
        self._curves: dict[Key, GrainCurve | None] = {}

    def ask(self, question: "Question", *, scores: bool) -> None:
        """Measure, and tell when it is done; at once if it was measured before."""
        key = _key(question)
        known = self._kept.get(key)
        if known is not None:
            self._jobs.cancel(NUMBERS)
            self.measured.emit(question, known)
            if known.scores is None and scores:
                self._ask_scores(question, key, known)
            return

        def work(monitor: Monitor) -> "Answer":
            from pemlo.core.images.comparing import answer  # noqa: PLC0415 - heavy to load

            return answer(question, monitor, with_scores=False)

        def done(found: "Answer") -> None:
            self._keep(key, found)
            self.measured.emit(question, found)
            if scores:
                self._ask_scores(question, key, found)

        self._jobs.cancel(SCORES)
        self._jobs.submit(NUMBERS, "Measuring", work, done)

    def ask_other(self, question: "Question") -> None:
        """Measure another picture too, to be asked for with `known`."""
        key = _key(question)

        def work(monitor: Monitor) -> "Answer":
            from pemlo.core.images.comparing import answer  # noqa: PLC0415 - heavy to load

            return answer(question, monitor, with_scores=False)

        if key not in self._kept:
            self._jobs.submit(OTHER, "Measuring", work, lambda found: self._keep(key, found))

    def known(self, question: "Question") -> "Answer | None":
        """Return what was measured before."""
        return self._kept.get(_key(question))

    def _ask_scores(self, question: "Question", key: Key, found: "Answer") -> None:
        if question.reference is None:
            return

        def work(monitor: Monitor) -> "Answer":
            from pemlo.core.images.comparing import scored  # noqa: PLC0415 - heavy to load

            return scored(question, found, monitor)

        def done(more: "Answer") -> None:
            self._keep(key, more)
            self.measured.emit(question, more)

        self._jobs.submit(SCORES, "Comparing as an eye does", work, done)

    def ask_region(self, question: "Question") -> None:
        """Measure a part of a picture."""

        def work(monitor: Monitor) -> "tuple[Answer, Sources | None]":
            from pemlo.core.images.comparing import answer, part_of  # noqa: PLC0415 - heavy to load
            from pemlo.core.images.sources import sources_of  # noqa: PLC0415 - as above

            found = answer(question, monitor, with_scores=False)
            part = part_of(question)
            return found, sources_of(question.picture, question.display, question.second, part, question.reading)

        def done(found: "tuple[Answer, Sources | None]") -> None:
            self.region_measured.emit(question, *found)

        self._jobs.submit(REGION, "Measuring the region", work, done)

    def ask_curve(
        self, noisy: Path, clean: Path, how: Measuring, samples: float, take: "Callable[[GrainCurve | None], None]"
    ) -> None:
        """Find how grain of a frame runs against samples."""
        key = (noisy, clean, how, samples, _written(noisy), _written(clean))
        if key in self._curves:
            take(self._curves[key])
            return

        def work(monitor: Monitor) -> "GrainCurve | None":
            from pemlo.core.images.comparing import curve_of  # noqa: PLC0415 - heavy to load

            monitor.step(0.0, "Finding how grain runs against samples")
            return curve_of(noisy, clean, how.display, samples, how.reading)

        def done(found: "GrainCurve | None") -> None:
            self._curves[key] = found
            take(found)

        self._jobs.submit(CURVE, "Finding how grain runs against samples", work, done)

    def ask_sources(self, question: "Question", take: "Callable[[Sources | None], None]") -> None:
        """Find where the noise of a picture comes from."""

        def work(monitor: Monitor) -> "Sources | None":
            from pemlo.core.images.sources import sources_of  # noqa: PLC0415 - heavy to load

            monitor.step(0.0, "Finding where the noise comes from")
            return sources_of(question.picture, question.display, question.second, reading=question.reading)

        self._jobs.submit(SOURCES, "Finding where the noise comes from", work, take)

    def _keep(self, key: Key, found: "Answer") -> None:
        self._kept[key] = found
        while len(self._kept) > _MOST_KEPT:
            del self._kept[next(iter(self._kept))]


def _key(question: "Question") -> Key:
    """Return what an answer depends on: a picture that was written anew is measured anew."""
    files = (question.picture, question.second, question.reference, question.reference_second)
    return question, tuple(_written(file) for file in files if file is not None)


def _written(file: Path) -> int:
    try:
        return file.stat().st_mtime_ns
    except OSError:
        return 0
