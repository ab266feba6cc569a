"""The page with the ladder sheet: makes its tiles, writes it to a file. GUI thread."""

from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFileDialog, QScrollArea

from pemlo.app.jobs import Jobs
from pemlo.core.errors import FileError, PemloError
from pemlo.core.pixels.box import Box
from pemlo.gui.judge.ladder.sheet import LadderSheet, Tile
from pemlo.gui.judge.ladder.tiles import TileRequest, make_tiles
from pemlo.gui.judge.measure.measuring import MeasureConditions
from pemlo.gui.judge.presenter import PictureChoice
from pemlo.gui.judge.viewer.pair import Pair


class LadderPage(QScrollArea):
    """Every trial of the frame that is looked at.

    Signals
    -------
    pair_chosen(PictureChoice, PictureChoice)
        Two that are to be compared.
    """

    pair_chosen = Signal(object, object)

    def __init__(self, jobs: Jobs, report: Callable[[PemloError], None]) -> None:
        super().__init__()
        self._jobs, self._report = jobs, report
        self._of: tuple[PictureChoice, ...] = ()
        self._made: object = None
        self.sheet = LadderSheet()
        self.sheet.pair_chosen.connect(lambda first, second: self.pair_chosen.emit(self._of[first], self._of[second]))
        self.setWidget(self.sheet)
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)

    def show_pair(self, pair: Pair, size: tuple[int, int], box: Box, how: MeasureConditions) -> None:
        """Make the tiles of the frame of a pair: the same part, `box`, of pictures brought to a size."""
        of = pair.of_frame()
        if (of, size, box, how) == self._made:
            return
        wanted = [
            TileRequest(choice, question) for choice in of if (question := pair.question(how, of=choice)) is not None
        ]

        def take(tiles: list[Tile]) -> None:
            self._of, self._made = of, (of, size, box, how)
            self.sheet.show_tiles(tiles)

        make_tiles(self._jobs, wanted, size, box, how, take)

    def export(self) -> None:
        """Write the sheet as PNG."""
        name, _ = QFileDialog.getSaveFileName(self, "Write the ladder sheet", "ladder sheet.png", "PNG (*.png)")
        name = name if not name or name.lower().endswith(".png") else f"{name}.png"
        if name and not self.sheet.as_image().save(name):
            self._report(FileError(f"{name} cannot be written.", "See that its folder may be written to."))
