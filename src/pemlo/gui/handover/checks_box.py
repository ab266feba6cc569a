"""The left of Hand-over: the film at a glance, what the checks found, lines of one's own. GUI thread."""

from collections.abc import Sequence

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from pemlo.app.launch_checker import CheckedLaunch
from pemlo.app.preferences import Preferences
from pemlo.core.preflight.finding import FINE, UNKNOWN, WRONG, Fix
from pemlo.core.preflight.grouped import grouped
from pemlo.core.project.launch import OwnCheck
from pemlo.core.project.project import Project
from pemlo.gui.common.choice import Choice
from pemlo.gui.common.enabling import enable
from pemlo.gui.common.labels import Heading, button, label, rule
from pemlo.gui.common.plain import set_tip
from pemlo.gui.handover import presenter
from pemlo.gui.handover.findings_list import FindingsList
from pemlo.gui.handover.handover_edits import HandoverEdits
from pemlo.gui.handover.ready_marks import ReadyMarks

LONGEST = 400


class OwnLines(QWidget):
    """The lines, and a field for another."""

    def __init__(self, edits: HandoverEdits, preferences: Preferences) -> None:
        super().__init__()
        self._edits, self._preferences = edits, preferences
        self._shown: tuple[OwnCheck, ...] | None = None
        self._lines = QVBoxLayout()
        self._lines.setSpacing(1)
        self.line = QLineEdit()
        self.line.setPlaceholderText("A line of your own to tick off")
        self.line.setMaxLength(LONGEST)
        self.line.setAccessibleName("A line of your own")
        self.line.returnPressed.connect(self._add)
        self.always = QCheckBox("for all films")
        set_tip(self.always, "New films begin with this line; films you have can take it with “Usual lines”")
        self.usual = button("Usual lines", "Put in the lines that you keep for all films", self._take_usual, link=True)
        new = QHBoxLayout()
        new.setSpacing(6)
        new.addWidget(self.line, 1)
        new.addWidget(self.always)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        head = QHBoxLayout()
        head.addWidget(label("Your own lines", "title"))
        head.addStretch(1)
        head.addWidget(self.usual)
        column.addLayout(head)
        column.addLayout(self._lines)
        column.addLayout(new)

    def show_lines(self, lines: Sequence[OwnCheck]) -> None:
        lines = tuple(lines)
        kept = self._preferences.own_lines
        here = {line.words for line in lines}
        there = all(words in here for words in kept)
        enable(self.usual, ("All of them stand here." if kept else "No line was kept for all films.") if there else "")
        if lines == self._shown:
            return
        self._shown = lines
        while (item := self._lines.takeAt(0)) is not None:
            widget = item.widget()
            assert widget is not None
            widget.deleteLater()
        for place, one in enumerate(lines):
            self._lines.addWidget(self._row(place, one))

    def _row(self, place: int, line: OwnCheck) -> QWidget:
        made = QWidget()
        row = QHBoxLayout(made)
        row.setContentsMargins(0, 0, 0, 0)
        tick = QCheckBox(line.words)
        tick.setChecked(line.done)
        set_tip(tick, line.words)
        tick.clicked.connect(lambda done: self._edits.tick(place, done=done))
        row.addWidget(tick, 1)
        row.addWidget(button("×", f"Take out “{line.words}”", lambda: self._drop(place, line.words), link=True))
        return made

    def _drop(self, place: int, words: str) -> None:
        self._preferences.own_lines = [one for one in self._preferences.own_lines if one != words]
        self._edits.drop_line(place)

    def _add(self) -> None:
        words = self.line.text().strip()
        if not words:
            return
        self.line.clear()
        if self.always.isChecked():
            kept = [one for one in self._preferences.own_lines if one != words]
            self._preferences.own_lines = [*kept, words]
        self._edits.add_line(words)

    def _take_usual(self) -> None:
        existing = {line.words for line in self._shown or ()}
        self._edits.add_lines([words for words in self._preferences.own_lines if words not in existing])


LEAST, WIDTH = 276, 344
OUTCOMES: tuple[tuple[str, ...], ...] = ((WRONG, UNKNOWN), (WRONG,), (UNKNOWN,), (FINE,))
EMPTY = ("All is fine.", "Nothing is wrong.", "All that is checked is known.", "Nothing is fine yet.")
OF_PICKED = "Nothing of the picked shots."


class ChecksBox(QWidget):
    """The column.

    Signals
    -------
    shot_wanted(str)
    first_frame_wanted(), render_wanted()
    """

    shot_wanted = Signal(str)
    first_frame_wanted = Signal()
    render_wanted = Signal()

    def __init__(self, edits: HandoverEdits, preferences: Preferences) -> None:
        super().__init__()
        self._edits = edits
        self._found: CheckedLaunch | None = None
        self._picked: tuple[str, ...] = ()
        self.setMinimumWidth(LEAST)
        self.setMaximumWidth(WIDTH)
        self.mend_all = button("", "In one step that can be undone", self._mend_all, link=True)
        self.first = button(
            "First frame…", "Hold a frame rendered with launch settings against the plan", self.first_frame_wanted.emit,
            link=True,
        )  # fmt: skip
        self.render_it = button(
            "Render it", "Have the first frame of the picked shot rendered as launched, and held against the plan",
            self.render_wanted.emit, link=True,
        )  # fmt: skip
        self.heading = Heading("Before the launch", self.first, self.render_it)
        self.said = label("", "second", small=True, wrap=True)
        self.states = ReadyMarks()
        self.findings = FindingsList()
        self.outcome = Choice("Which findings", "What is listed below", ["all open", "wrong", "not known", "fine"])
        self.whose = Choice(
            "Of which shots", "Of all shots, or of those that are picked", ["all shots", "picked shots"]
        )
        self.lines = OwnLines(edits, preferences)
        self.states.shot_wanted.connect(self.shot_wanted)
        self.findings.shot_wanted.connect(self.shot_wanted)
        self.findings.mended.connect(edits.mend)
        self.outcome.activated.connect(lambda _: self._show_findings())
        self.whose.activated.connect(lambda _: self._show_findings())
        row = QHBoxLayout()
        row.setSpacing(6)
        row.addWidget(self.outcome)
        row.addWidget(self.whose)
        row.addStretch(1)
        row.addWidget(self.mend_all)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(self.heading)
        column.addWidget(self.said)
        column.addWidget(self.states)
        column.addLayout(row)
        column.addWidget(self.findings, 1)
        column.addWidget(rule())
        column.addWidget(self.lines)

    def show_project(self, project: Project) -> None:
        """Show lines of one's own, which need no checks."""
        self.lines.show_lines(project.own_checks)

    def show_checked(self, project: Project, checked_launch: CheckedLaunch | None, picked: Sequence[str]) -> None:
        """Show what the checks found; of an older state nothing."""
        self._found, self._picked = checked_launch, tuple(picked)
        findings = None if checked_launch is None else checked_launch.findings
        typed = bool(project.launch)
        self.said.setText(presenter.film_words(project, findings, typed=typed))
        self.states.show_marks(presenter.shot_marks(project, findings), picked)
        self._show_findings()

    def _show_findings(self) -> None:
        findings = () if self._found is None else self._found.findings
        counts = presenter.outcome_counts(findings)
        for number, outcomes in enumerate(OUTCOMES[1:], 1):
            self.outcome.setItemText(number, f"{counts[outcomes[0]]} {outcomes[0]}")
        self.outcome.setItemText(0, f"{counts[WRONG] + counts[UNKNOWN]} open")
        number, only = self.outcome.currentIndex(), self.whose.currentIndex() == 1
        shown = presenter.shown_findings(findings, OUTCOMES[number], self._picked, only_picked=only)
        empty = EMPTY[number] if self._found is not None else "Checking…"
        if only and any(finding.outcome in OUTCOMES[number] for finding in findings):
            empty = OF_PICKED
        elif number == 0 and self._found is not None:
            empty += f" Checked: {', '.join(dict.fromkeys(finding.check for finding in findings))}."
        self.findings.show_findings(grouped(shown), empty)
        mends = self._mends()
        self.mend_all.setText(f"Fix all {len(mends)}" if mends else "Fix all")
        enable(self.mend_all, "" if len(mends) > 1 else "Fewer than two findings can be fixed by the program.")

    def _mends(self) -> list[Fix]:
        findings = () if self._found is None else self._found.findings
        # A line of somebody's own is ticked off by somebody, one at a time.
        return [
            finding.mend
            for finding in findings
            if finding.outcome == WRONG and finding.mend is not None and finding.check != "own"
        ]

    def _mend_all(self) -> None:
        self._edits.mend_all(self._mends())
