"""The sheet beside the pictures: does it pass, what was measured, what denoising is worth. GUI thread."""

from collections.abc import Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QCheckBox, QFrame, QGridLayout, QLineEdit, QScrollArea, QVBoxLayout, QWidget

from pemlo.core.project.trials import BAD, GOOD
from pemlo.gui.common.flow import FlowLayout
from pemlo.gui.common.labels import Elided, button, label, rule
from pemlo.gui.common.plain import set_tip
from pemlo.gui.judge.conditions import ConditionsForm
from pemlo.gui.judge.measure.presenter import Line
from pemlo.gui.judge.measure.sources_bar import SourcesBar
from pemlo.gui.judge.sheet_words import SheetWords

WIDTH = 286


class Lines(QWidget):
    """Names at the left, numbers at the right, a thin line under each."""

    def __init__(self) -> None:
        super().__init__()
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setVerticalSpacing(3)
        self._grid.setColumnStretch(0, 1)
        self.shown: tuple[Line, ...] = ()

    def show_lines(self, lines: Sequence[Line]) -> None:
        if tuple(lines) == self.shown:
            return
        self.shown = tuple(lines)
        while (item := self._grid.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        for row, line in enumerate(lines):
            name, text = Elided(), label(line.text, line.role)
            name.setText(line.name)
            set_tip(name, f"{line.name}\n{line.tip}" if line.tip else line.name)
            set_tip(text, line.tip)
            text.setAccessibleName(f"{line.name} {line.text}")
            self._grid.addWidget(rule(), 2 * row, 0, 1, 2)
            self._grid.addWidget(name, 2 * row + 1, 0)
            self._grid.addWidget(text, 2 * row + 1, 1, Qt.AlignmentFlag.AlignRight)


class Judgement(QFrame):
    """The sheet.

    Signals
    -------
    marked(str)
        How the left picture is marked; empty to take a mark away.
    blind_chosen(bool)
    spot_wanted()
        Go to the worst spot.
    missing_wanted()
        Render the trial that is missing.
    ladder_wanted()
        Render a ladder of the region.
    """

    marked = Signal(str)
    blind_chosen = Signal(bool)
    spot_wanted = Signal()
    missing_wanted = Signal()
    ladder_wanted = Signal()

    def __init__(self, conditions: ConditionsForm) -> None:
        super().__init__()
        self.setFixedWidth(WIDTH)
        self.title = label("Does it pass?", "title")
        self.which = label("", "second", wrap=True)
        self.good = button("Good enough", "The left picture passes (Y)", lambda: self.marked.emit(GOOD), main=True)
        self.bad = button("Not good enough", "The left picture does not pass (N)", lambda: self.marked.emit(BAD))
        self.clear = button("Take the mark away", "Of the left picture", lambda: self.marked.emit(""), link=True)
        self.note = QLineEdit()
        self.note.setPlaceholderText("Note: what you see, and where")
        self.note.setAccessibleName("Note")
        set_tip(self.note, "Kept with the mark")
        self.for_look = QCheckBox("for all shots of this look")
        set_tip(self.for_look, "The mark holds for every shot that has the same look in the brief")
        self.blind = QCheckBox("blind: hide which is which")
        set_tip(self.blind, "Names and numbers are hidden and sides are shuffled until you have marked")
        self.blind.toggled.connect(self.blind_chosen)
        self.ceiling = label("", wrap=True)
        self.contradiction = label("", "limit", wrap=True)
        self.heading = label("", "title", wrap=True)
        self.lines = Lines()
        self.spot = button("Go to the worst spot", "Again for the next worst (W)", self.spot_wanted.emit, link=True)
        self.again = button("", "Rendered here, by the renderer that ships with Pemlo", self.missing_wanted.emit)
        self.worth = label("", wrap=True)
        self.worth_frame = QFrame()
        self.worth_frame.setObjectName("worth")
        self.sources = SourcesBar()
        self.conditions = conditions
        self.region_heading = label("Region", "title")
        self.region_lines = Lines()
        self.to_trials = button(
            "Render a ladder of this region…",
            "In Trials, the form of a new ladder opens with it",
            self.ladder_wanted.emit,
        )
        self._lay_out()
        self.show_region(None)
        self._say_worth("")
        self.sources.show_shares({}, "")

    def _lay_out(self) -> None:
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setContentsMargins(14, 10, 14, 10)
        column.setSpacing(7)
        marking = QWidget()
        marks = FlowLayout(marking)
        marks.addWidget(self.good)
        marks.addWidget(self.bad)
        column.addWidget(self.title)
        column.addWidget(self.which)
        column.addWidget(marking)
        more = QWidget()
        below = FlowLayout(more)
        below.addWidget(self.for_look)
        below.addWidget(self.clear)
        column.addWidget(self.note)
        column.addWidget(more)
        said: tuple[QWidget, ...] = (self.blind, self.ceiling, self.contradiction, self.heading, self.lines)
        for widget in said:
            column.addWidget(widget)
        column.addWidget(self.spot, 0, Qt.AlignmentFlag.AlignLeft)
        column.addWidget(self.again, 0, Qt.AlignmentFlag.AlignLeft)
        worth = QVBoxLayout(self.worth_frame)
        worth.setContentsMargins(10, 8, 10, 8)
        worth.addWidget(self.worth)
        rest: tuple[QWidget, ...] = (
            self.worth_frame,
            self.sources,
            self.region_heading,
            self.region_lines,
            self.to_trials,
        )
        for widget in rest:
            column.addWidget(widget)
        column.addSpacing(4)
        column.addWidget(rule())
        column.addWidget(self.conditions)
        column.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setWidget(inside)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(scroll)

    def say(self, words: SheetWords) -> None:
        """Say everything anew."""
        self.which.setText(words.which)
        self.clear.setVisible(words.can_clear)
        if words.ceiling is not None:
            self.ceiling.setText(words.ceiling)
            self.contradiction.setText(words.contradiction)
            self.contradiction.setVisible(bool(words.contradiction))
            self.for_look.setVisible(words.has_look)
        self.heading.setText(words.heading)
        set_tip(self.heading, words.heading_tip)
        self.lines.show_lines(words.lines)
        self.spot.setVisible(words.has_spots)
        self._offer(words.offer)
        self.conditions.show_viewing(words.viewing)
        self._say_worth(words.worth)
        self.sources.show_shares(words.shares, words.advice)

    def _offer(self, words: str) -> None:
        """Offer to render what is missing; nothing with no words."""
        # Too long for the sheet in one line.
        self.again.setText(words.replace(" with another", "\nwith another"))
        self.again.setAccessibleName(words)
        self.again.setVisible(bool(words))

    def _say_worth(self, words: str) -> None:
        self.worth.setText(words)
        self.worth_frame.setVisible(bool(words))

    def show_region(self, lines: Sequence[Line] | None, words: str = "") -> None:
        for one in (self.region_heading, self.region_lines, self.to_trials):
            one.setVisible(lines is not None)
        self.region_heading.setText(f"Region {words}")
        self.region_lines.show_lines(lines or ())
