"""The pages of Judge: pictures, all trials of the frame, tiles to mark, the error of other settings. GUI thread."""

from collections.abc import Callable

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QWidget

from pemlo.app.document import Document
from pemlo.core.project.ceiling import ceiling_of
from pemlo.gui.judge.ladder.marking_page import MarkingPage
from pemlo.gui.judge.ladder.page import LadderPage
from pemlo.gui.judge.ladder.tiles import part_around
from pemlo.gui.judge.measure.error_page import ErrorPage
from pemlo.gui.judge.measure.findings import Findings
from pemlo.gui.judge.measure.measuring import MeasureConditions
from pemlo.gui.judge.presenter import PictureChoice
from pemlo.gui.judge.viewer.canvas import Canvas
from pemlo.gui.judge.viewer.choosing import Choosing
from pemlo.gui.judge.viewer.controls import Controls
from pemlo.gui.judge.viewer.picture_row import ERRORS, LADDER, MARKING, PICTURES
from pemlo.gui.judge.viewer.reader import PictureReader


class Pages(QObject):
    """Turns the pages, and shows what is on the open one.

    Signals
    -------
    trial_opened(str, int)
        A shot, and one of its trials by its place in the document, are to be looked at.
    """

    trial_opened = Signal(str, int)

    def __init__(
        self,
        document: Document,
        choosing: Choosing,
        canvas: Canvas,
        controls: Controls,
        ladder: LadderPage,
        marking: MarkingPage,
        errors: ErrorPage,
        reader: PictureReader,
        findings: Findings,
        how: Callable[[], MeasureConditions],
    ) -> None:
        super().__init__()
        self._document, self._choosing, self._canvas, self._controls = document, choosing, canvas, controls
        self._ladder, self._errors, self._reader, self._findings, self._how = ladder, errors, reader, findings, how
        self.marking = marking
        self.widgets: dict[str, QWidget] = {PICTURES: canvas, LADDER: ladder, ERRORS: errors}
        self.widgets |= dict.fromkeys(MARKING, marking)
        choosing.row.page_chosen.connect(self.show)
        controls.export_wanted.connect(ladder.export)
        ladder.pair_chosen.connect(self._on_pair)
        errors.trial_picked.connect(self._on_trial_picked)
        marking.opened.connect(self._on_opened)

    @property
    def now(self) -> str:
        """Which page is shown."""
        return self._choosing.row.page.currentText()

    def show(self, page: str) -> None:
        """Show the pictures, or a page that is made of all trials of the frame."""
        self._choosing.row.page.setCurrentText(page)
        for widget in dict.fromkeys(self.widgets.values()):
            widget.setVisible(widget is self.widgets[page])
        self._controls.show_page(page)
        size = self._reader.size
        if page == LADDER and size is not None:
            middle = self._canvas.placement.centre
            part = part_around((middle.x(), middle.y()), size)
            self._ladder.show_pair(self._choosing.pair, size, part, self._how())
        elif page in MARKING:
            self.marking.show_of(page, self._choosing.shot)  # type: ignore[arg-type]
        elif page == ERRORS:
            self._findings.ask_appearance()
            self.show_errors()

    def show_errors(self) -> None:
        """Show on the page of errors what is known by now, if it is the open one."""
        if self.now != ERRORS:
            return
        project, shot, left = self._document.project, self._choosing.shot, self._choosing.pair.left
        known = any(one.name == shot for one in project.shots)
        findings = self._findings
        self._errors.show_appearance(
            findings.appearance,
            findings.appearance_of_trials,
            None if left is None else left.trial,
            findings.forecast,
            ceiling_of(project, shot).value if known else None,
        )

    def show_marks(self) -> None:
        """Show marks on the page of tiles as the document has them now, if it is the open one."""
        if self.now in MARKING:
            self.marking.show_of(self.now, self._choosing.shot)  # type: ignore[arg-type]

    def _on_opened(self, shot: str, index: int) -> None:
        self.show(PICTURES)
        self.trial_opened.emit(shot, index)

    def _on_pair(self, left: PictureChoice, right: PictureChoice) -> None:
        self.show(PICTURES)
        self._choosing.show_pair(left, right)

    def _on_trial_picked(self, index: int) -> None:
        if any(choice.index == index for choice in self._choosing.pair.among):
            self.show(PICTURES)
            self._choosing.show_trial(index)
