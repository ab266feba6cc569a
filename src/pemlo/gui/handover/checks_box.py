"""The left of Hand-over: the film at a glance, what the checks found, lines of one's own. GUI thread."""

from collections.abc import Sequence

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from pemlo.app.launch_checker import CheckedLaunch
from pemlo.app.preferences import Preferences
from pemlo.core.preflight.finding import FINE, UNKNOWN, WRONG, Fix
from pemlo.core.preflight.grouped import grouped
from pemlo.core.project.project import Project
from pemlo.gui.common.choice import Choice
from pemlo.gui.common.labels import Heading, button, label, rule
from pemlo.gui.handover import presenter
from pemlo.gui.handover.findings_list import FindingsList
from pemlo.gui.handover.handover_edits import HandoverEdits
from pemlo.gui.handover.own_lines import OwnLines
from pemlo.gui.handover.ready_marks import ReadyMarks

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

    def show_checked(self, project: Project, found: CheckedLaunch | None, picked: Sequence[str]) -> None:
        """Show what the checks found; of an older state nothing."""
        self._found, self._picked = found, tuple(picked)
        findings = None if found is None else found.findings
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
        self.mend_all.setEnabled(len(mends) > 1)

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
