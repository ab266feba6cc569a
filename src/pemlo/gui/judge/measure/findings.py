"""What was found out about the left picture: numbers, spots, a region, the worth of denoising. GUI thread."""

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QObject, Signal

from pemlo.app.file_facts import FileFacts
from pemlo.app.film_known import FilmForecast as Forecast
from pemlo.app.jobs import Jobs
from pemlo.core.cost.draws import draw_frame
from pemlo.core.pixels.box import Box
from pemlo.core.project.settings import MOST_SAMPLES, NO_DENOISE, FrameSettings
from pemlo.core.project.trials import Trial
from pemlo.gui.judge.measure.measurer import Measurer
from pemlo.gui.judge.measure.measuring import MeasureConditions
from pemlo.gui.judge.measure.presenter import denoise_words
from pemlo.gui.judge.presenter import PictureChoice
from pemlo.gui.judge.viewer.pair import Pair

if TYPE_CHECKING:
    from pemlo.core.appraisal.frame_appearance import FrameAppearance
    from pemlo.core.appraisal.noise_sources import Sources
    from pemlo.core.appraisal.picture_comparison import ComparisonRequest, PictureComparison
    from pemlo.core.predict.error_model import ErrorModel


def seconds_without_denoising(forecast: Forecast, trial: Trial, samples: float) -> float | None:
    """Return the seconds of a trial's frame with so many samples and no denoising; None if nothing is known."""
    fit = forecast.fit
    if not fit.known or trial.shot not in fit.shots:
        return None
    settings = FrameSettings(
        samples=min(max(round(samples), 1), MOST_SAMPLES),
        denoise=NO_DENOISE,
        resolution_percent=trial.resolution_percent,
    )
    drawn = draw_frame(fit, forecast.project, trial.shot, trial.frame, settings)
    return float(np.median(drawn))


MOST_SPOTS = 8


class Findings(QObject):
    """Asks, and keeps what comes back as long as it is of the picture that is shown.

    Signals
    -------
    changed()
        There are new numbers, or none any more.
    region_found(PictureComparison, Sources)
    """

    changed = Signal()
    region_found = Signal(object, object)

    def __init__(self, jobs: Jobs, written: FileFacts) -> None:
        super().__init__()
        self._measurer = Measurer(jobs, written)
        self._pair = Pair()
        self._how: MeasureConditions | None = None
        self._question: ComparisonRequest | None = None
        self._region: ComparisonRequest | None = None
        self._spot = -1
        self.found: PictureComparison | None = None
        self.forecast: Forecast | None = None
        self.worth = ""
        self.sources: Sources | None = None
        self.appearance: FrameAppearance | None = None
        self.appearance_of_trials: tuple[PictureChoice, ...] = ()
        self._appraising: Pair | None = None
        self._measurer.measured.connect(self._on_measured)
        self._measurer.region_measured.connect(self._on_region_measured)

    def ask(self, pair: Pair, how: MeasureConditions) -> None:
        """Find out about a pair of pictures."""
        self._pair, self._how = pair, how
        self._question, self._region = pair.question(how), None
        self._spot, self.found, self.worth, self.sources = -1, None, "", None
        self.appearance, self._appraising = None, None
        self.changed.emit()
        if self._question is not None:
            self._measurer.ask(self._question, scores=True)
            self._ask_sources(self._question, pair)

    def ask_right(self) -> None:
        """Find out about the right picture too: in the blind either may be marked."""
        question = None if self._how is None or self._pair.right is None else self._of(self._pair.right)
        if question is not None:
            self._measurer.ask_other(question)

    def known_of(self, choice: PictureChoice) -> "PictureComparison | None":
        """Return what was measured of one of the two pictures; None while it is not."""
        question = self._of(choice)
        return None if question is None else self._measurer.known(question)

    def _of(self, choice: PictureChoice) -> "ComparisonRequest | None":
        return None if self._how is None else self._pair.question(self._how, of=choice)

    def _on_measured(self, question: "ComparisonRequest", picture_comparison: "PictureComparison") -> None:
        if question == self._question:
            self.found = picture_comparison
            self.changed.emit()
            self.ask_worth()

    def _ask_sources(self, question: "ComparisonRequest", pair: Pair) -> None:
        def take(found: "Sources | None") -> None:
            if self._pair is pair:
                self.sources = found
                self.changed.emit()

        # A denoised picture says in its layers where the noise came from before.
        self._measurer.ask_sources(question, take)

    # Spots

    def next_spot(self, shown_width: int) -> tuple[Box, str] | None:
        """Return the worst spot in px of a picture shown so wide, and what it says; again for the next."""
        grain = None if self.found is None else self.found.measured.grain
        spots = () if grain is None else grain.map.spots(MOST_SPOTS)
        if grain is None or not spots:
            return None
        self._spot = (self._spot + 1) % len(spots)
        left, top, right, bottom = spots[self._spot]
        value = float(grain.map.mean[top // grain.map.side, left // grain.map.side]) ** 0.5
        times = shown_width / grain.map.size[0]
        box = round(left * times), round(top * times), round(right * times), round(bottom * times)
        return box, f"{'worst spot' if self._spot == 0 else f'spot {self._spot + 1}'} {value:.1f}"

    # A region

    def ask_region(self, box: Box | None, shown_width: int) -> None:
        """Measure a part of the picture, in px of a picture shown so wide; None for none."""
        self._region = None
        if box is None or self.found is None or self._how is None:
            return
        size = self.found.measured.size
        times = size[0] / shown_width
        left, top, right, bottom = (round(edge * times) for edge in box)
        left, top = min(left, size[0] - 1), min(top, size[1] - 1)
        inside = left, top, min(max(right, left + 1), size[0]), min(max(bottom, top + 1), size[1])
        self._region = self._pair.question(self._how, inside)
        if self._region is not None:
            self._measurer.ask_region(self._region)

    def _on_region_measured(
        self, question: "ComparisonRequest", picture_comparison: "PictureComparison", sources: "Sources | None"
    ) -> None:
        if question == self._region:
            self.region_found.emit(picture_comparison, sources)

    # What denoising is worth

    def ask_worth(self) -> None:
        """Find out whether denoising is worth it, for a picture that was denoised."""
        left = self._pair.left
        if left is None or left.trial is None or left.trial.denoise == NO_DENOISE or self._how is None:
            return
        clean = self._pair.reference()
        if clean is None or clean.trial is None or clean.trial.denoise != NO_DENOISE:
            self.worth = denoise_words(left, self.found, None, None)
            self.changed.emit()
        else:
            self.ask_appearance()

    # How the frame looks

    def ask_appearance(self) -> None:
        """Find out how the frame looks, so that errors of other settings can be predicted."""
        pair, pictured = self._pair, self._pair.pictured()
        if pictured is None or self._how is None:
            return
        of, reference, others = pictured

        def take(found: "FrameAppearance") -> None:
            if self._pair is pair:
                self.appearance, self.appearance_of_trials = found, of
                self._say_worth(found.error_model)
                self.changed.emit()

        if self.appearance is not None:
            take(self.appearance)
        elif self._appraising is not pair:
            self._appraising = pair
            self._measurer.ask_appearance(reference, others, self._how, take)

    def _say_worth(self, model: "ErrorModel | None") -> None:
        left = self._pair.left
        if left is not None and left.trial is not None and left.trial.denoise != NO_DENOISE:
            self.worth = denoise_words(left, self.found, model, None if model is None else self._seconds_without(model))

    def _seconds_without(self, model: "ErrorModel") -> float | None:
        """Return what a frame takes with the samples that leave the same error without denoising."""
        trial = None if self._pair.left is None else self._pair.left.trial
        error = None if self.found is None else self.found.measured.error
        if self.forecast is None or error is None or trial is None:
            return None

        samples = model.curve.samples_for(max(error.total.middle, 1e-3))
        return seconds_without_denoising(self.forecast, trial, samples)
