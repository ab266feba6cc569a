"""Two ways of rendering the picked shot or the film, side by side; to be copied, kept and written. GUI thread."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QFileDialog, QGridLayout, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from pemlo.app.document import Document
from pemlo.app.jobs import Jobs
from pemlo.app.planner import Planner
from pemlo.core.errors import PemloError
from pemlo.core.persistence.whole_files import write_whole
from pemlo.core.progress import Monitor
from pemlo.core.project.edits import drop_card, keep_card
from pemlo.core.project.project import Project
from pemlo.core.project.shots import Shot
from pemlo.gui.common.choice import Choice
from pemlo.gui.common.enabling import enable
from pemlo.gui.common.labels import button, label, rule
from pemlo.gui.common.plain import set_tip
from pemlo.gui.trade.way_choices import ASKED, PLANNED, TYPED, WayChoice, way_choices

if TYPE_CHECKING:
    from pemlo.core.trade.two_ways import TwoWays

WAYS, ROW_PX, NAME_PX = "two ways", 18, 172


class TwoWaysCard(QWidget):
    """The card. What it shows is worked out on another thread, for the document as it stands."""

    def __init__(self, document: Document, jobs: Jobs, planner: Planner, report: Callable[[PemloError], None]) -> None:
        super().__init__()
        self._document, self._jobs, self._planner, self._report = document, jobs, planner, report
        self._shot = ""
        self._shown: object = None
        self.found: TwoWays | None = None
        self.text = ""
        self.about = Choice("About", "The picked shot, or all of them as each is", ("this shot", "the film"))
        self.first, self.second = (
            Choice(name, "As asked, as planned, a trial, a plan that was kept, or typed settings", ())
            for name in ("First way", "Second way")
        )
        for box in (self.first, self.second):
            box.setSizeAdjustPolicy(Choice.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.setMinimumContentsLength(10)
        self._choices: tuple[WayChoice, ...] = ()
        self.typed = QLineEdit()
        self.typed.setPlaceholderText("typed: samples=64, denoise=frame")
        self.typed.setAccessibleName("Typed way")
        set_tip(self.typed, "Settings over what was asked, for the way that is “typed”")
        self.sentence, self.timed = label("", "title", wrap=True), label("", "second", wrap=True)
        self.settings = label("", "second", small=True, wrap=True)
        self.grid = QGridLayout()
        self.grid.setHorizontalSpacing(14)
        self.grid.setVerticalSpacing(0)
        self.grid.setColumnMinimumWidth(0, NAME_PX)  # longer names of shots take a second line
        self.grid.setColumnStretch(1, 1)
        self.grid.setColumnStretch(2, 1)
        self._cells: list[QWidget] = []
        self._dropped = ""
        self.copy = button("Copy as text", "To the clipboard", self._on_copy, link=True)
        self.keep = button("Keep", "With the project, as it is now", self._on_keep, link=True)
        self.write = button("Write…", "To a text file", self._on_write, link=True)
        self.kept = Choice("Kept", "Comparisons that were kept, as they were then", ())
        self.drop = button("Drop", "Keep this comparison no longer; one step to undo", self._on_drop, link=True)
        self.drop.hide()
        self._lay_out()
        for choice in (self.about, self.first, self.second):
            choice.activated.connect(lambda _: self._ask())
        self.typed.editingFinished.connect(self._on_typed)
        self.kept.activated.connect(self._on_kept)

    def _lay_out(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        above = QHBoxLayout()
        above.addWidget(self.about)
        above.addWidget(self.first, 1)
        above.addWidget(label("against", "second"))
        above.addWidget(self.second, 1)
        column.addLayout(above)
        column.addWidget(self.typed)
        column.addWidget(self.timed)
        column.addWidget(self.sentence)
        column.addWidget(self.settings)
        column.addLayout(self.grid)
        below = QHBoxLayout()
        for link in (self.copy, self.keep, self.write):
            below.addWidget(link)
        below.addStretch(1)
        below.addWidget(self.drop)
        below.addWidget(self.kept)
        column.addLayout(below)
        column.addStretch(1)

    def show_shot(self, project: Project, shot: Shot) -> None:
        """Offer the ways of a shot, and compare the two that are chosen."""
        chosen = self.first.currentText() or ASKED, self.second.currentText() or PLANNED
        self._shot = shot.name
        self._choices = way_choices(project, shot, of_film=self.of_film)
        names = [choice.name for choice in self._choices]
        for box, name, other in ((self.first, chosen[0], ASKED), (self.second, chosen[1], PLANNED)):
            box.clear()
            box.addItems(names)
            box.setCurrentText(name if name in names else other)
        kept = [card.title for card in project.cards]
        self.kept.clear()
        self.kept.addItems(["kept…", *kept])
        self.kept.setVisible(bool(kept))
        self._ask()

    @property
    def of_film(self) -> bool:
        """Whether it is about the film."""
        return self.about.currentIndex() == 1

    def _chosen(self) -> tuple[WayChoice, WayChoice] | None:
        by_name = {choice.name: choice for choice in self._choices}
        found = tuple(by_name.get(box.currentText()) for box in (self.first, self.second))
        self.typed.setVisible(TYPED in {box.currentText() for box in (self.first, self.second)})
        return None if None in found else (found[0], found[1])  # type: ignore[return-value]

    def _ask(self) -> None:
        state, chosen = self._planner.state.known, self._chosen()
        if state is None or chosen is None:
            return
        project, of_film, shot = state.project, self.of_film, self._shot
        try:
            first, second = (way_choice.way(project, shot, self.typed.text(), of_film=of_film) for way_choice in chosen)
        except PemloError as error:
            self._say_nothing(f"{error.message} {error.hint}".strip())
            return
        wanted = (project, state.film.fit_input, of_film, shot, repr(first), repr(second))
        if wanted == self._shown:
            return
        self._shown = wanted
        film, known = state.film, (state.fit, state.draws)
        appearances = {one.name: seen for one in project.shots if (seen := self._planner.appearance_of(one.name))}
        timed = chosen[0].trial, chosen[1].trial

        def work(monitor: Monitor) -> "tuple[TwoWays, str]":
            from pemlo.core.trade.two_ways import two_ways  # noqa: PLC0415 - heavy to load
            from pemlo.words.two_ways import said_of_times, timed_sentence  # noqa: PLC0415 - as above

            about = "" if of_film else shot
            found = two_ways(
                project, known, appearances, about, first, second, lambda changed: film.forecast_with(changed, monitor)
            )
            if timed[0] is None or timed[1] is None:
                return found, said_of_times(found)
            return found, timed_sentence(timed[0], timed[1], found.frames)

        self._jobs.submit(WAYS, "Comparing two ways", work, lambda found: self._show(project, *found))

    def _show(self, project: Project, ways: "TwoWays", timed: str) -> None:
        from pemlo.words.two_ways import as_text, rows, saving_sentence  # noqa: PLC0415 - heavy to load

        self.found, self.text = ways, as_text(project, ways, timed)
        self.sentence.setText(saving_sentence(ways))
        self.timed.setText(f"As timed: {timed}" if timed else "")
        self.timed.setVisible(bool(timed))
        self._clear()
        table = rows(project, ways)
        settings = [
            f"{way}: {words}" for way, words in zip((ways.first.name, ways.second.name), table[0][1:], strict=True)
        ]
        self.settings.setText("\n".join(settings) if ways.about else "")
        self.settings.setVisible(bool(ways.about))
        for number, (name, first, second) in enumerate(table[1:] if ways.about else table):
            cells = label(name, "second", wrap=True), label(first), label(second)
            self.grid.setRowMinimumHeight(2 * number, ROW_PX)
            for at, cell in enumerate(cells):
                self.grid.addWidget(cell, 2 * number, at)
            line = rule()
            self.grid.addWidget(line, 2 * number + 1, 0, 1, 3)
            self._cells += [*cells, line]
        for link in (self.copy, self.keep, self.write):
            enable(link)

    def _say_nothing(self, why: str) -> None:
        self._shown, self.found, self.text = None, None, ""
        self._clear()
        self.settings.setText("")
        self.timed.setText("")
        self.sentence.setText(why)
        for link in (self.copy, self.keep, self.write):
            enable(link, why)

    def _clear(self) -> None:
        self.drop.hide()
        for cell in self._cells:
            self.grid.removeWidget(cell)
            cell.hide()
            cell.deleteLater()
        self._cells = []

    def _on_typed(self) -> None:
        if TYPED not in (self.first.currentText(), self.second.currentText()):
            self.second.setCurrentText(TYPED)
        self._ask()

    def _on_copy(self) -> None:
        QGuiApplication.clipboard().setText(self.text)

    def _on_keep(self) -> None:
        title, text = self.text.splitlines()[0], self.text
        self._edit(f"Keep “{title}”", lambda project: keep_card(project, title, text))

    def _on_write(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Write the comparison", "two ways.txt", "Text (*.txt)")
        if name:
            try:
                write_whole(self.text + "\n", Path(name))
            except PemloError as error:
                self._report(error)

    def _on_kept(self, number: int) -> None:
        cards = self._document.project.cards
        if 0 < number <= len(cards):
            self._shown = None
            self.text = cards[number - 1].text
            self._clear()
            self.sentence.setText("As it was kept:")
            cell = label(self.text, wrap=True)
            self.grid.addWidget(cell, 0, 0, 1, 3)
            self._cells = [cell]
            self._dropped = cards[number - 1].title
            self.drop.show()

    def _on_drop(self) -> None:
        title = self._dropped
        self.drop.hide()
        self._edit(f"Drop “{title}”", lambda project: drop_card(project, title))
        self._ask()

    def _edit(self, text: str, change: Callable[[Project], Project]) -> None:
        try:
            self._document.edit(text, change)
        except PemloError as error:
            self._report(error)
