"""How the picked shot will look: predicted look, error by parts, ceiling, room, and the trial that comes first."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QLineEdit, QVBoxLayout, QWidget

from pemlo.app.jobs import Jobs
from pemlo.app.planner import Planner
from pemlo.core.forecast.disk_memory import disk_memory_of, may_not_fit, too_small
from pemlo.core.project.eye_marks import eye_marks_of
from pemlo.core.project.project import Project
from pemlo.core.project.scenes import scene_of
from pemlo.core.project.shots import Shot
from pemlo.core.project.spelling import settings_words
from pemlo.core.project.trials import GOOD
from pemlo.gui.common.colours import colours, mixed
from pemlo.gui.common.dotted import dotted
from pemlo.gui.common.enabling import enable
from pemlo.gui.common.flow import FlowLayout
from pemlo.gui.common.fonts import SMALL, font
from pemlo.gui.common.labels import Heading, button, label
from pemlo.gui.common.plain import set_tip
from pemlo.gui.trade import presenter
from pemlo.gui.trade.by_eye import ByEye
from pemlo.gui.trade.preview import BESIDE_PX, Beside, PreviewView
from pemlo.gui.trade.trial_card import TrialCard

if TYPE_CHECKING:
    from pemlo.core.predict.error_model import Prediction
    from pemlo.core.predict.shot_appearance import ShotAppearance
    from pemlo.core.trade.options import Numbers


def parts_of(prediction: "Prediction") -> list[tuple[str, float]]:
    """Return the parts of an error as shares of its square, which add up; largest first is not asked for."""
    parts = [("scaling", prediction.scaling)]
    if prediction.grain is not None:
        parts = [("grain", prediction.grain.middle), *parts]
    if prediction.softening is not None:
        parts = [parts[0], ("softening", prediction.softening.middle), *parts[1:]]
    if prediction.switching:
        parts.append(("switches", prediction.switching))
    rest = max(prediction.total.middle**2 - sum(value**2 for _, value in parts), 0.0) ** 0.5
    name = "stepping" if prediction.grain is not None else "grain and softening"
    known = [*parts, (name, rest)]
    return [(words, value) for words, value in known if value**2 > 0.002 * prediction.total.middle**2]


class ErrorBar(QWidget):
    """The bar: as long as the error, parted by how much of its square each part is; the ceiling is a line across."""

    def __init__(self) -> None:
        super().__init__()
        self._parts: list[tuple[str, float]] = []
        self._total, self._ceiling = 0.0, float("nan")
        self.setFixedHeight(40)

    def sizeHint(self) -> QSize:
        return QSize(260, 40)

    def show_error(self, prediction: "Prediction | None", ceiling: float) -> None:
        self._parts = [] if prediction is None else parts_of(prediction)
        self._total = 0.0 if prediction is None else prediction.total.middle
        self._ceiling = ceiling
        said = ", ".join(f"{name} {value:.1f}" for name, value in self._parts)
        self.setAccessibleName(f"Error {self._total:.1f} levels: {said}")
        set_tip(self, f"{said} levels. Parts add in squares, and are as long as their share of the square")
        self.setVisible(prediction is not None)
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        palette = colours()
        top = max(self._total, 0.0 if np.isnan(self._ceiling) else self._ceiling, 1e-6) * 1.2
        scale = self.width() / top
        with QPainter(self) as painter:
            painter.setFont(font(SMALL))
            painter.setPen(QPen(palette.line, 1))
            painter.drawRect(QRectF(0.5, 2.5, self.width() - 1, 14))
            x, squares = 1.0, sum(value**2 for _, value in self._parts) or 1.0
            for number, (_, value) in enumerate(self._parts):
                width = value**2 / squares * self._total * scale
                painter.fillRect(QRectF(x, 3, width, 14), mixed(palette.picture, palette.picture_light, 0.4 * number))
                x += width
            if not np.isnan(self._ceiling):
                at = self._ceiling * scale
                painter.setPen(QPen(palette.limit, 2))
                painter.drawLine(QPointF(at, 0), QPointF(at, 20))
            painter.setPen(palette.second)
            words = "   ".join(f"{name} {value:.1f}" for name, value in self._parts)
            painter.drawText(QRectF(0, 22, self.width(), 16), Qt.AlignmentFlag.AlignLeft, words)


FIELDS = (
    ("ceiling", "error limit, levels", "Largest error that passes, whatever is marked; empty for marks, or as asked"),
    ("weight", "weight", "How much the shot's error counts against the others', in the sum that a plan makes small"),
)


class CeilingRow(QWidget):
    """Two fields.

    Signals
    -------
    typed(str, str)
        Field of a shot, and what was typed in it.
    """

    typed = Signal(str, str)

    def __init__(self) -> None:
        super().__init__()
        self.fields: dict[str, QLineEdit] = {}
        self._shown: dict[str, str] = {}
        row = FlowLayout(self, spacing=5)
        for name, words, tip in FIELDS:
            field = self.fields[name] = QLineEdit()
            field.setFixedWidth(54)
            field.setAccessibleName(words)
            set_tip(field, tip)
            field.editingFinished.connect(self._on_left(name))
            row.addWidget(dotted(label(words, "second")))
            row.addWidget(field)
        self.fields["ceiling"].setPlaceholderText("none")

    def show_shot(self, shot: Shot) -> None:
        """Show what a shot has; a field that is being typed in is left alone."""
        texts = {"ceiling": "" if shot.ceiling is None else f"{shot.ceiling:g}", "weight": f"{shot.weight:g}"}
        for name, text in texts.items():
            if not (self.fields[name].hasFocus() and text == self._shown.get(name)):
                self.fields[name].setText(text)
        self._shown = texts

    def _on_left(self, name: str) -> Callable[[], None]:
        def act() -> None:
            text = self.fields[name].text().strip()
            if text != self._shown.get(name):
                self.typed.emit(name, text)

        return act


class AppearanceSide(QWidget):
    """The column.

    Signals
    -------
    turned()
        Another picture is to stand beside the predicted look.
    """

    turned = Signal()

    def __init__(self, jobs: Jobs, planner: Planner) -> None:
        super().__init__()
        self._planner = planner
        self._passed_beside = self._measured = False
        self.preview = PreviewView(jobs)
        self.beside = button(
            "", "What it is compared with: the reference, or a trial that passed", self._turn, link=True
        )
        self.in_judge = button(
            "Judge it", "The whole frame in Judge, with all its tools", self.preview.write_whole, link=True
        )
        self.heading = Heading("Predicted look")
        self.hold = button(
            "Hold to compare", "While it is held, the reference or what passed stands in its place",
            lambda: None, link=True,
        )  # fmt: skip
        self.hold.pressed.connect(lambda: self.preview.show_other(on=True))
        self.hold.released.connect(lambda: self.preview.show_other(on=False))
        links = QWidget()
        flow = FlowLayout(links)
        for link in (self.hold, self.in_judge, self.beside):
            flow.addWidget(link)
        self.error, self.error_bar, self.ceiling = label("", wrap=True), ErrorBar(), CeilingRow()
        self.by_eye = ByEye()
        self.disk_memory, self.first = (
            label("", "second", wrap=True),
            TrialCard("Then the plan is weighed with what it tells", needed=True),
        )
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(self.heading)
        column.addWidget(self.preview)
        column.addWidget(links)
        rows: tuple[QWidget, ...] = (
            self.error,
            self.error_bar,
            self.by_eye,
            self.first,
            self.ceiling,
            self.disk_memory,
        )
        for row in rows:
            column.addWidget(row)
        column.addStretch(1)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._show_hold()

    def _show_hold(self) -> None:
        """Offer to compare where there is room for one picture only."""
        self.hold.setVisible(self._measured and self.width() < BESIDE_PX)

    def forget(self) -> None:
        """Forget what was beside the predicted look, and where it was looked at."""
        self._passed_beside = False
        self.preview.forget()

    def show_shot(self, project: Project, shot: Shot) -> None:
        """Show a shot as it is planned; its options are known."""
        planner = self._planner
        options, now, appearance = (
            planner.options_of(shot.name),
            planner.numbers.of(shot),
            planner.appearance_of(shot.name),
        )
        assert options is not None
        prediction = None if now is None else now.found
        is_seen = appearance is not None
        self.heading.say(
            f"{shot.name}, frame {appearance.frame}" if appearance is not None else shot.name,
            "Predicted look" if is_seen else "By eye",
        )
        passed = passed_of(project, shot, appearance)
        self.beside.setVisible(passed is not None)
        self.beside.setText("compare with the reference" if self._passed_beside else "compare with what passed")
        enable(
            self.in_judge,
            ""
            if appearance is not None and prediction is not None
            else "No look is predicted: it needs a trial with a picture.",
        )
        words = "" if prediction is None else f"error {prediction.total.middle:.1f} levels"
        spent, trouble = np.nan if now is None else now.spent, planner.trouble_of(shot.name)
        self.preview.show_preview(
            appearance, shot.settings, spent, words, trouble, passed if self._passed_beside else None
        )
        self.error.setText(presenter.error_words(now, options))
        self.error_bar.show_error(prediction, options.ceiling)
        measured = appearance is not None
        for one in (self.preview, self.error, self.error_bar):
            one.setVisible(measured)
        self._measured = measured
        self._show_hold()
        self.in_judge.setVisible(measured)
        self.by_eye.setVisible(not measured)
        if not measured:
            self.by_eye.show_shot(project, shot)
        self.ceiling.show_shot(shot)
        disk_memory = disk_memory_of(project, shot, shot.settings)
        memory, of = disk_memory.memory_gib, (project, shot, shot.settings)
        small = () if memory is None else too_small(*of, memory)
        unsure = () if memory is None else may_not_fit(*of, memory)
        self.disk_memory.setText(presenter.disk_memory_words(disk_memory, small, unsure))
        if not measured and eye_marks_of(project, shot.name):
            self.first.hide()  # whoever judges by eye needs no picture here: what to look at next is said above
        elif now is not None:
            self._show_first(project, shot, appearance, now)

    def _show_first(self, project: Project, shot: Shot, appearance: "ShotAppearance | None", now: "Numbers") -> None:
        from pemlo.core.trade.required_test import required_test  # noqa: PLC0415 - heavy to load

        first = required_test(project, shot, appearance, now)
        words = "" if first is None else presenter.first_words(first)
        self.first.show_trial(first, words, can_render=bool(scene_of(shot)))

    def _turn(self) -> None:
        self._passed_beside = not self._passed_beside
        self.turned.emit()


def passed_of(project: Project, shot: Shot, appearance: "ShotAppearance | None") -> Beside | None:
    """Return the trial of the frame that passed with the largest error: what has been approved so far."""
    if appearance is None or appearance.pictures is None:
        return None
    available_h = {sample.path.name: sample.path for sample in appearance.pictures.samples}
    trials = [
        trial
        for trial in project.trials_of(shot.name)
        if trial.mark == GOOD and trial.frame == appearance.frame and Path(trial.picture).name in available_h
    ]
    best = max(trials, key=lambda trial: trial.error or 0.0, default=None)
    if best is None:
        return None
    return Beside(available_h[Path(best.picture).name], f"passed: {settings_words(best)}")
