"""A region drawn on the pictures: what is measured of it, and the ladder that can be rendered of it. GUI thread."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Qt, Signal

from pemlo.app.document import Document
from pemlo.gui.judge.blind import Blind
from pemlo.gui.judge.judgement import Judgement
from pemlo.gui.judge.measure.findings import Findings
from pemlo.gui.judge.measure.presenter import number_lines, source_lines
from pemlo.gui.judge.viewer.canvas import Canvas
from pemlo.gui.judge.viewer.choosing import Choosing
from pemlo.gui.judge.viewer.controls import Controls
from pemlo.gui.judge.viewer.reader import PictureReader

if TYPE_CHECKING:
    from pemlo.core.appraisal.noise_sources import Sources
    from pemlo.core.appraisal.picture_comparison import PictureComparison
    from pemlo.core.pixels.box import Box


class RegionMeasure(QObject):
    """Measures the region that is drawn on the canvas, and says it on the sheet.

    Signals
    -------
    ladder_wanted(tuple)
        Shot, frame and region (left, top, right, bottom) that a new ladder is to be rendered of.
    """

    ladder_wanted = Signal(object)

    def __init__(
        self,
        document: Document,
        choosing: Choosing,
        sheet: Judgement,
        canvas: Canvas,
        controls: Controls,
        reader: PictureReader,
        findings: Findings,
        blind: Blind,
    ) -> None:
        super().__init__()
        self._document, self._choosing = document, choosing
        self._sheet, self._canvas = sheet, canvas
        self._reader, self._findings, self._blind = reader, findings, blind
        canvas.region_drawn.connect(self._on_drawn)
        controls.region_chosen.connect(self._on_chosen)
        findings.region_found.connect(self._on_found)
        sheet.ladder_wanted.connect(self._ask_ladder)

    def _on_chosen(self, on: bool) -> None:  # noqa: FBT001 - Qt's signal carries it so
        self._canvas.drawing_region = on
        self._canvas.setCursor(Qt.CursorShape.CrossCursor if on else Qt.CursorShape.ArrowCursor)

    def _on_drawn(self, box: "Box | None") -> None:
        self._sheet.show_region(None)
        if self._reader.size is not None:
            self._findings.ask_region(box, self._reader.size[0])

    def _on_found(self, picture_comparison: "PictureComparison", sources: "Sources | None") -> None:
        box = self._canvas.region
        if box is not None and not self._blind.on:
            words = f"{box[2] - box[0]}×{box[3] - box[1]} px at {box[0]}, {box[1]}"
            self._sheet.show_region((*number_lines(picture_comparison), *source_lines(sources)), words)

    def _ask_ladder(self) -> None:
        """Ask for a ladder of the region, in px of the delivered picture."""
        left_picture, size = self._choosing.pair.left, self._reader.size
        trial = None if left_picture is None else left_picture.trial
        if trial is None or self._canvas.region is None or size is None:
            return
        project = self._document.project
        across, down = (a / b for a, b in zip(project.size_of(project.shot(trial.shot)), size, strict=True))
        left, top, right, bottom = self._canvas.region
        region = round(left * across), round(top * down), round(right * across), round(bottom * down)
        self.ladder_wanted.emit((trial.shot, trial.frame, region))
