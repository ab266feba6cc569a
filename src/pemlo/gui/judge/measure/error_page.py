"""The page that predicts: error over samples with and without denoisers, and what other settings leave. GUI thread."""

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from pemlo.app.film_known import FilmForecast as Forecast
from pemlo.app.jobs import Jobs
from pemlo.core.errors import InputError
from pemlo.core.progress import Monitor
from pemlo.core.project.settings import NO_DENOISE, FrameSettings
from pemlo.core.project.trials import Trial
from pemlo.gui.common.axes import doubling_axis, level_axis
from pemlo.gui.common.choice import Choice
from pemlo.gui.common.labels import label
from pemlo.gui.common.plain import set_tip
from pemlo.gui.common.plot import Plot
from pemlo.gui.judge.measure import error_lines
from pemlo.gui.judge.presenter import PictureChoice as Pictured

if TYPE_CHECKING:
    from pemlo.core.appraisal.frame_appearance import FrameAppearance
    from pemlo.core.predict.error_model import ErrorModel

PREDICT = "judge predicted"
_STYLES = (Qt.PenStyle.SolidLine, Qt.PenStyle.DashLine, Qt.PenStyle.DashDotLine, Qt.PenStyle.DashDotDotLine)
_SYMBOLS = ("o", "s", "t", "d", "p", "h")


class ErrorPage(QFrame):
    """The plot, and a line that asks.

    Signals
    -------
    trial_picked(int)
        Place among all trials of one that was clicked.
    """

    trial_picked = Signal(int)

    def __init__(self, jobs: Jobs) -> None:
        super().__init__()
        self.setObjectName("sheet")
        self._jobs = jobs
        self._model: ErrorModel | None = None
        self._trial: Trial | None = None
        self._forecast: Forecast | None = None
        self._shown: tuple[object, ...] = ()
        self._wanted_denoise = NO_DENOISE  # of which perhaps nothing is known yet
        self.plot = Plot(
            "Error over samples",
            level_axis("error against the reference, levels"),
            doubling_axis("samples a pixel that are spent"),
        )
        self.plot.picked.connect(self.trial_picked)
        self.plot.hide()
        self.samples, self.threshold, self.percent = QLineEdit(), QLineEdit(), QLineEdit()
        for field in (self.samples, self.threshold, self.percent):
            field.setFixedWidth(64)
            field.textChanged.connect(lambda _: self._ask())
        self.threshold.setPlaceholderText("none")
        self.denoise = Choice("Denoise", "Which denoiser: those of which a trial was measured", (NO_DENOISE,))
        self.words = label("", wrap=True)
        self.about = label("", "second", wrap=True)
        self._lay_out()
        self.denoise.activated.connect(lambda _: self._on_denoiser())

    def _lay_out(self) -> None:
        row = QHBoxLayout()
        row.addWidget(label("What would it look like with", "title"))
        fields: tuple[tuple[str, QWidget, str], ...] = (
            ("samples", self.samples, "Samples a pixel; with a threshold the most"),
            ("threshold", self.threshold, "Noise threshold; empty for as many samples everywhere"),
            ("denoise", self.denoise, ""),
            ("size, %", self.percent, "Resolution percentage of each side, of the delivery's size"),
        )
        for words, field, tip in fields:
            field.setAccessibleName(words)
            if tip:
                set_tip(field, tip)
            row.addWidget(label(words, "second"))
            row.addWidget(field)
        row.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 10, 16, 10)
        column.setSpacing(6)
        column.addLayout(row)
        column.addWidget(self.words)
        column.addWidget(self.plot, 1)
        column.addWidget(self.about)

    def show_appearance(
        self,
        appearance: "FrameAppearance | None",
        of: tuple[Pictured, ...],
        trial: Trial | None,
        forecast: Forecast | None,
        ceiling: float | None,
    ) -> None:
        """Show how a frame looks; None while that is being found out, or where a file is no trial."""
        # The same again: nothing is drawn anew while somebody types.
        now = (appearance, forecast, of, trial, ceiling)
        if self._shown and self._shown[0] is appearance and self._shown[1] is forecast and self._shown[2:] == now[2:]:
            return
        self._shown = now
        self._model, self._forecast = None if appearance is None else appearance.error_model, forecast
        if trial is not self._trial and trial is not None:
            self._trial = trial
            self._begin(error_lines.beginning(trial))
        self._offer_denoisers()
        if trial is None:
            self.about.setText("A file that is no trial does not say how it was rendered: choose a trial at the left.")
        elif appearance is None:
            self.about.setText("Finding out how the frame looks …")
        else:
            self.about.setText(error_lines.about_words(appearance, trial))
        if appearance is not None:
            self._draw(error_lines.error_plot(appearance, of, ceiling))
        self._ask()

    def _begin(self, settings: FrameSettings) -> None:
        threshold = "" if settings.noise_threshold is None else f"{settings.noise_threshold:g}"
        for field, text in ((self.samples, f"{settings.samples}"), (self.threshold, threshold), (self.percent, "100")):
            field.setText(text)
        self._wanted_denoise = settings.denoise

    def _offer_denoisers(self) -> None:
        wanted = (NO_DENOISE,) if self._model is None else error_lines.offered_denoisers(self._model)
        if wanted != tuple(self.denoise.itemText(k) for k in range(self.denoise.count())):
            self.denoise.clear()
            self.denoise.addItems(list(wanted))
        self.denoise.setCurrentText(self._wanted_denoise if self._wanted_denoise in wanted else NO_DENOISE)

    def _on_denoiser(self) -> None:
        self._wanted_denoise = self.denoise.currentText()
        self._ask()

    def _ask(self) -> None:
        """Predict in the background what the typed settings leave."""
        model, trial, forecast = self._model, self._trial, self._forecast
        if model is None or trial is None:
            self._on_predicted(error_lines.AskedError(""))
            return
        try:
            settings = error_lines.read_settings(
                trial, self.samples.text(), self.threshold.text(), self.denoise.currentText(), self.percent.text()
            )
        except InputError as error:
            self.words.setText(str(error))
            return

        def work(monitor: Monitor) -> error_lines.AskedError:
            monitor.step(0.0, "Predicting")
            return error_lines.ask(model, forecast, trial.shot, trial.frame, settings)

        self._jobs.submit(PREDICT, "Predicting", work, self._on_predicted)

    def _on_predicted(self, asked: error_lines.AskedError) -> None:
        self.words.setText(asked.words)
        self.plot.show_ring(asked.samples, asked.error, "picture")

    def _draw(self, shown: error_lines.ErrorPlot) -> None:
        self.plot.setVisible(True)
        draw(self.plot, shown)


def draw(plot: Plot, shown: error_lines.ErrorPlot) -> None:
    """Draw lines with their bands and parts, trials, and the error limit."""
    plot.clear()
    names = list(dict.fromkeys([*(line.denoise for line in shown.lines), *(dot.denoise for dot in shown.dots)]))
    heights = [np.log10([dot.y for dot in shown.dots])] if shown.dots else []
    for number, line in enumerate(shown.lines):
        x = np.log10(line.samples)
        plot.add_band(x, np.log10(line.low), np.log10(line.high), "picture_light", 0.8)
        plot.add_line(x, np.log10(line.middle), "picture", style=_STYLES[number % len(_STYLES)])
        heights.append(np.log10([line.low.min(), line.high.max()]))
        name = "not denoised" if line.denoise == NO_DENOISE else f"denoised: {line.denoise}"
        plot.add_words(name, float(x[0]), float(np.log10(line.middle[0])), (-0.05, 1.1), "picture", strong=True)
        for words, part in (("grain that stays", line.residual), ("softening", line.bias)):
            if part is not None:
                plot.add_line(x, np.log10(part), "picture", 1.0, Qt.PenStyle.DotLine)
                middle = len(x) // 2
                plot.add_words(words, float(x[middle]), float(np.log10(part[middle])), (1.02, 0), "picture")
                heights.append(np.log10(part))
    for number, name in enumerate(names):
        dots = [dot for dot in shown.dots if dot.denoise == name]
        x, y = (np.log10([getattr(dot, axis) for dot in dots]) for axis in ("x", "y"))
        plot.add_dots(dots, x, y, "picture", _SYMBOLS[number % len(_SYMBOLS)])
    if shown.ceiling:
        level = float(np.log10(shown.ceiling))
        plot.add_level(level, "limit")
        heights.append(np.array([level]))
    across = [np.log10(line.samples) for line in shown.lines] or [np.log10([dot.x for dot in shown.dots] or [1, 2])]
    x = np.concatenate(across)
    if shown.ceiling:
        plot.add_words("error limit", float(x.max()), level, (1, 1), "limit", strong=True)
    plot.set_range(x, np.concatenate(heights or [np.array([0.0, 1.0])]))
