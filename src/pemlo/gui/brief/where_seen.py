"""Where the film is watched: which size loses nothing there and what that saves; what another rate does. GUI thread."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QButtonGroup,
    QDialog,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QRadioButton,
    QVBoxLayout,
    QWidget,
)

from pemlo.app.document import Document
from pemlo.app.film_known import FilmForecast
from pemlo.app.jobs import Jobs
from pemlo.core.errors import PemloError
from pemlo.core.progress import Monitor
from pemlo.core.project.delivery import FRAME_RATES
from pemlo.core.project.edits import set_asked
from pemlo.core.project.project import Project
from pemlo.core.project.rates import Keep, RateChange, rate_change
from pemlo.core.project.reframing import SHAPES, only_reframed, reframed_words, with_reframed
from pemlo.core.project.screens import SCREENS, Screen, ScreenFit, custom, fit_for, fit_words
from pemlo.core.units import format_hours
from pemlo.gui.common.choice import Choice
from pemlo.gui.common.enabling import enable
from pemlo.gui.common.labels import button, label, rule
from pemlo.gui.common.plain import set_tip

if TYPE_CHECKING:
    from pemlo.core.interval import Interval

WIDE, SHAPE = "sizes", "shape"
KEEPS: dict[str, Keep] = {
    "shots last as long": "seconds",
    "shots keep their frames": "frames",
    "slow motion: rendered so, shown at the film's rate": "slow motion",
}


class WhereSeen(QDialog):
    """Screens with the size that each needs, and the rate."""

    def __init__(
        self,
        parent: QWidget,
        document: Document,
        jobs: Jobs,
        answer: Callable[[], FilmForecast | None],
        report: Callable[[PemloError], None],
        picked: Callable[[], tuple[str, ...]],
    ) -> None:
        super().__init__(parent)
        self._document, self._jobs, self._answer, self._report, self._picked = document, jobs, answer, report, picked
        self.setWindowTitle("Where it is watched")
        self.setModal(False)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        project = document.project
        self._size = project.delivery.width, project.delivery.height
        self._screens: list[Screen] = [*SCREENS]
        self._fits: list[ScreenFit] = [fit_for(screen, self._size) for screen in SCREENS]
        self.group = QButtonGroup(self)
        self.savings: list[QWidget] = []
        self.grid = QGridLayout()
        self.grid.setHorizontalSpacing(18)
        self.grid.setVerticalSpacing(3)
        self.grid.setColumnStretch(4, 1)
        self.own = QLineEdit()
        self.own.setPlaceholderText("a screen of your own: 1280x720 at 1.5 widths")
        self.own.setAccessibleName("A screen of your own")
        set_tip(self.own, "Its pixels, how far it is in widths of the picture, or both")
        self.own.returnPressed.connect(self._on_own)
        self.words = label("", wrap=True)
        self.use = button("Use this size", "The resolution percentage of every shot as asked; one step to undo",
                          self._on_use, main=True)  # fmt: skip
        self.rate = Choice("Frames a second", "Another rate", list(FRAME_RATES))
        self.rate.setCurrentText("30")
        self.keep = Choice("What stays", "What another rate leaves as it is", list(KEEPS))
        self.rate_words = label("", wrap=True)
        self.change = button("Change the rate", "Of all shots; of the picked ones for slow motion. One step to undo",
                             self._on_change)  # fmt: skip
        self.shape = Choice("Another frame", "Square, upright or another shape of the frame", list(SHAPES))
        self.shape_words = label("", wrap=True)
        self.reframe = button("", "Each shot once more in that shape, with the times of the shot; one step to undo",
                              self._on_reframe)  # fmt: skip
        self._lay_out()
        for number in range(len(self._screens)):
            self._add_row(number)
        self.group.idClicked.connect(lambda _: self._say())
        for box in (self.rate, self.keep):
            box.activated.connect(lambda _: self._say_rate())
        self.shape.activated.connect(lambda _: self._ask_shape())
        document.changed.connect(self._on_document)
        self.group.button(0).setChecked(True)
        self._say()
        self._say_rate()
        self._ask_savings()
        self._ask_shape()

    def _lay_out(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 14, 18, 14)
        column.setSpacing(8)
        column.addWidget(label(f"Where is the film of {self._size[0]}×{self._size[1]} watched?", "title"))
        for at, title in enumerate(("", "needs", "px", "of the pixels", "saves, machine-hours")):
            self.grid.addWidget(label(title, "second", small=True), 0, at)
        column.addLayout(self.grid)
        column.addWidget(self.own)
        column.addWidget(self.words)
        column.addWidget(self.use, 0, Qt.AlignmentFlag.AlignLeft)
        column.addSpacing(4)
        column.addWidget(rule())
        column.addWidget(label("Another rate", "title"))
        row = QHBoxLayout()
        row.addWidget(self.rate)
        row.addWidget(label("fps;", "second"))
        row.addWidget(self.keep, 1)
        column.addLayout(row)
        column.addWidget(self.rate_words)
        column.addWidget(self.change, 0, Qt.AlignmentFlag.AlignLeft)
        column.addSpacing(4)
        column.addWidget(rule())
        column.addWidget(label("Another frame", "title"))
        column.addWidget(self.shape, 0, Qt.AlignmentFlag.AlignLeft)
        column.addWidget(self.shape_words)
        column.addWidget(self.reframe, 0, Qt.AlignmentFlag.AlignLeft)
        self.resize(640, 680)

    def _add_row(self, number: int) -> None:
        screen, screen_fit = self._screens[number], self._fits[number]
        made = QRadioButton(screen.name)
        self.group.addButton(made, number)
        cells: list[QWidget] = [
            made,
            label(f"{screen_fit.percent:.4g} %"),
            label(f"{screen_fit.size[0]}×{screen_fit.size[1]}"),
            label(f"{screen_fit.pixels_share:.0%}"),
            label("not known" if self._answer() is None else "…", "second"),
        ]
        self.savings.append(cells[-1])
        for at, cell in enumerate(cells):
            self.grid.addWidget(cell, number + 1, at)

    @property
    def chosen(self) -> int:
        """Which screen is chosen, by its place."""
        return max(self.group.checkedId(), 0)

    def _say(self) -> None:
        screen_fit = self._fits[self.chosen]
        self.words.setText(fit_words(self._screens[self.chosen], screen_fit))
        asked = {shot.asked.resolution_percent for shot in self._document.project.shots}
        done = asked == {round(screen_fit.percent, 4)}
        self.use.setText("In use" if done else f"Use {screen_fit.percent:.4g} % for all shots")
        enable(self.use, "All shots are this size." if done else "" if asked else "There is no shot yet.")

    def _on_own(self) -> None:
        try:
            screen = custom(self.own.text())
        except ValueError as error:
            self.words.setText(f"{error}.")
            return
        self._screens.append(screen)
        self._fits.append(fit_for(screen, self._size))
        self._add_row(len(self._screens) - 1)
        self.group.button(len(self._screens) - 1).setChecked(True)
        self.own.clear()
        self._say()
        self._ask_savings()

    def _on_use(self) -> None:
        percent = round(self._fits[self.chosen].percent, 4)
        names = [shot.name for shot in self._document.project.shots]
        self._edit(
            f"Size for {self._screens[self.chosen].name}",
            lambda project: set_asked(project, names, resolution_percent=percent),
        )

    def _ask_savings(self) -> None:
        answer = self._answer()
        if answer is None or not answer.fit.known:
            return
        project, known = answer.project, (answer.fit, answer.draws)
        percents = [round(screen_fit.percent, 4) for screen_fit in self._fits]

        def work(monitor: Monitor) -> "list[Interval]":
            from pemlo.core.trade.two_ways import saved_hours  # noqa: PLC0415 - heavy to load

            found = []
            for number, percent in enumerate(percents):
                monitor.step(number / len(percents), "Weighing sizes")
                settings = {shot.name: shot.asked.replace(resolution_percent=percent) for shot in project.shots}
                asked = {shot.name: shot.asked for shot in project.shots}
                found.append(saved_hours(project, known, asked, settings))
            return found

        self._jobs.submit(WIDE, "Weighing sizes", work, self._show_savings)

    def _show_savings(self, found: "list[Interval]") -> None:
        from shiboken6 import isValid  # noqa: PLC0415 - only here

        from pemlo.core.units import format_interval  # noqa: PLC0415 - only here

        if not isValid(self):
            return  # it may be closed by now
        for cell, saved in zip(self.savings, found, strict=False):
            nothing = abs(saved.middle) < 1e-9
            cell.setText("nothing" if nothing else format_interval(saved))  # type: ignore[attr-defined]

    def _say_rate(self) -> None:
        try:
            found = self._changed_rate()
        except PemloError as error:
            self.rate_words.setText(error.message)
            enable(self.change, error.message)
            return
        self.rate_words.setText(found.words)
        enable(self.change, "" if found.project != self._document.project else "The film has that rate.")

    def _changed_rate(self) -> RateChange:
        keep = KEEPS[self.keep.currentText()]
        names = self._picked() if keep == "slow motion" else ()
        return rate_change(self._document.project, FRAME_RATES[self.rate.currentText()], keep, names)

    def _on_change(self) -> None:
        rate, keep = FRAME_RATES[self.rate.currentText()], KEEPS[self.keep.currentText()]
        names = self._picked() if keep == "slow motion" else ()
        self._edit(
            f"Change the rate to {self.rate.currentText()} fps",
            lambda project: rate_change(project, rate, keep, names).project,
        )

    def _ask_shape(self) -> None:
        """Say what a shape is, and what all shots take rendered so."""
        shape, project = self.shape.currentText(), self._document.project
        self.shape_words.setText(f"{reframed_words(self._size, shape)} Rendered anew: hours not known.")
        self.reframe.setText(f"Render every shot as {shape}, too")
        answer = self._answer()
        if answer is None or not answer.fit.known:
            return

        def work(_: Monitor) -> "Interval | None":
            film = answer.film.with_project(only_reframed(project, shape))
            return film.forecast.hours

        def done(hours: "Interval | None") -> None:
            from shiboken6 import isValid  # noqa: PLC0415 - only here

            if isValid(self) and hours is not None and self.shape.currentText() == shape:
                amount = format_hours(hours)
                more = f"Rendered anew: {amount} machine-hours for all shots, retakes counted."
                self.shape_words.setText(f"{reframed_words(self._size, shape)} {more}")

        self._jobs.submit(SHAPE, "Weighing another frame", work, done)

    def _on_reframe(self) -> None:
        shape = self.shape.currentText()
        self._edit(f"Render every shot as {shape}, too", lambda project: with_reframed(project, shape))

    def _on_document(self, _fields: frozenset[str]) -> None:
        self._say()
        self._say_rate()

    def _edit(self, text: str, change: Callable[[Project], Project]) -> None:
        try:
            self._document.edit(text, change)
        except PemloError as error:
            self._report(error)
