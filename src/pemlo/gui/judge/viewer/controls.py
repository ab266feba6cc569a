"""The line of controls under the pictures. GUI thread."""

from collections.abc import Callable

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from pemlo.gui.common.choice import Choice
from pemlo.gui.common.labels import button, label, rule
from pemlo.gui.judge.viewer.overlays import MAPS
from pemlo.gui.judge.viewer.picture_row import LADDER, PICTURES
from pemlo.gui.judge.viewer.placement import ZOOMS, Mode

TIMES = (1, 2, 4, 8, 16, 32, 64)
STOPS = tuple(step / 2 for step in range(-16, 17))
PARTS = ("colour", "red", "green", "blue", "brightness")
_MODES = (
    (Mode.SPLIT, "Split", "Both in one place, split by a line that can be dragged; T turns the line"),
    (Mode.BESIDE, "Next to each other", "Both pictures, moved and enlarged together"),
    (Mode.SWAP, "Swap", "One in place of the other: X, again and again"),
    (Mode.DIFFERENCE, "Difference", "One subtracted from the other, amplified"),
)


class Controls(QFrame):
    """How the pictures are shown.

    Signals
    -------
    mode_chosen(Mode)
    difference_chosen(int, bool)
        Amplification, and whether the sign is kept.
    part_chosen(str)
        A part of the colour, or a layer of the files.
    exposure_chosen(float)
        Stops.
    zoom_chosen(float)
        0 to fit the picture in.
    map_chosen(str)
    region_chosen(bool)
        Whether a region is drawn rather than the picture moved.
    export_wanted()
        The ladder sheet is to be written to a file.
    """

    mode_chosen = Signal(object)
    difference_chosen = Signal(int, bool)
    part_chosen = Signal(str)
    exposure_chosen = Signal(float)
    zoom_chosen = Signal(float)
    map_chosen = Signal(str)
    region_chosen = Signal(bool)
    export_wanted = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("onpicture")
        self.values, self.sizes = label("", small=True), label("", small=True)
        self.modes = {
            mode: self._switch(words, tip, lambda _, mode=mode: self.mode_chosen.emit(mode))
            for mode, words, tip in _MODES
        }
        for push_button in self.modes.values():
            push_button.setAutoExclusive(True)
        self.modes[Mode.SPLIT].setChecked(True)
        self.region = self._switch(
            "Region",
            "Draw a region to measure it; with Shift at any time",
            lambda on: self.region_chosen.emit(on),  # noqa: PLW0108 - emit alone is handed no argument
        )
        self.times = Choice("Amplification", "By how much the difference is amplified", [f"×{n}" for n in TIMES])
        self.times.setCurrentText("×8")
        self.sign = Choice(
            "Sign", "Signed: equal is middle grey, brighter is lighter. Size: equal is black", ["signed", "size"]
        )
        self.map = Choice("Map", "Over the left picture: where it is noisy, and what that comes from (M)", MAPS)
        self.lacking = label("", small=True)
        self.export = button("Write PNG…", "Write the ladder sheet to a file", self.export_wanted.emit, link=True)
        self.part = Choice("Channel", "Colour, one part of it, or another layer of the files", list(PARTS))
        self.exposure = Choice(
            "Exposure",
            "Stops brighter or darker; measured numbers follow",
            [f"exposure {stops:+.1f}" if stops else "exposure 0" for stops in STOPS],
        )
        self.exposure.setCurrentIndex(STOPS.index(0.0))
        self.zoom = Choice("Zoom", "Whole multiples; the wheel zooms too", ["fit", *map(_zoom_words, ZOOMS)])
        self._lay_out()
        self.times.activated.connect(lambda _: self._on_difference())
        self.sign.activated.connect(lambda _: self._on_difference())
        self.part.activated.connect(lambda _: self.part_chosen.emit(self.part.currentText()))
        self.exposure.activated.connect(lambda index: self.exposure_chosen.emit(STOPS[index]))
        self.zoom.activated.connect(self._on_zoom)
        self.show_mode(Mode.SPLIT)
        self.map.activated.connect(lambda _: self.map_chosen.emit(self.map.currentText()))
        self.export.setVisible(False)  # as the first page has it

    def _lay_out(self) -> None:
        above, row = QHBoxLayout(), QHBoxLayout()
        said: list[QWidget] = [self.values, self.part, self.exposure, self.zoom]
        for widget in said:
            above.addWidget(widget, int(widget is self.values))
        switches: list[QWidget] = [
            *self.modes.values(),
            self.times,
            self.sign,
            rule(upright=True),
            self.region,
            self.map,
            self.lacking,
        ]
        for widget in switches:
            row.addWidget(widget)
        row.addStretch(1)
        row.addWidget(self.sizes)
        row.addWidget(self.export)
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 4, 10, 4)
        column.setSpacing(2)
        column.addLayout(above)
        column.addLayout(row)

    def _switch(self, words: str, tip: str, act: Callable[..., None]) -> QPushButton:
        made = button(words, tip, lambda: None, link=True)
        made.setCheckable(True)
        made.clicked.connect(act)
        return made

    def show_mode(self, mode: Mode) -> None:
        self.modes[mode].setChecked(True)
        for choice in (self.times, self.sign):
            choice.setVisible(mode is Mode.DIFFERENCE)

    def show_page(self, page: str) -> None:
        """Show what there is to choose on a page."""
        self.export.setVisible(page == LADDER)
        self.zoom.setVisible(page == PICTURES)
        self.setVisible(page in {PICTURES, LADDER})

    def show_zoom(self, zoom: float) -> None:
        self.zoom.setCurrentText(_zoom_words(zoom))

    def show_layers(self, layers: tuple[str, ...]) -> None:
        """Offer the layers of the files behind the parts of their colour."""
        wanted = [*PARTS, *(layer for layer in layers if layer)]
        if wanted != [self.part.itemText(k) for k in range(self.part.count())]:
            now = self.part.currentText()
            self.part.clear()
            self.part.addItems(wanted)
            self.part.setCurrentText(now if now in wanted else PARTS[0])

    def _on_difference(self) -> None:
        self.difference_chosen.emit(TIMES[self.times.currentIndex()], self.sign.currentIndex() == 0)

    def _on_zoom(self, index: int) -> None:
        self.zoom_chosen.emit(ZOOMS[index - 1] if index else 0.0)


def _zoom_words(zoom: float) -> str:
    return f"{100 * zoom:.0f} %"
