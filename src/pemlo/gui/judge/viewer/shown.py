"""The pictures as they are shown: mode, overlay, values under the pointer, frames of a sequence. GUI thread."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject

from pemlo.gui.judge.blind import Blind
from pemlo.gui.judge.measure import presenter as measured_words
from pemlo.gui.judge.measure.findings import Findings
from pemlo.gui.judge.playback.player import Player
from pemlo.gui.judge.presenter import size_words, value_words
from pemlo.gui.judge.viewer.canvas import Canvas
from pemlo.gui.judge.viewer.controls import PARTS, Controls
from pemlo.gui.judge.viewer.overlays import NO_MAP, NOISE_MAP, SOURCE_MAP, noise_overlay, source_overlay
from pemlo.gui.judge.viewer.placement import Mode
from pemlo.gui.judge.viewer.reader import PictureReader

if TYPE_CHECKING:
    from pemlo.gui.judge.viewer.painting import Sizes


class ShownPictures(QObject):
    """Brings what was read and measured to the canvas, as the controls say."""

    def __init__(
        self,
        canvas: Canvas,
        controls: Controls,
        reader: PictureReader,
        findings: Findings,
        player: Player,
        blind: Blind,
    ) -> None:
        super().__init__()
        self._canvas, self._controls, self._reader = canvas, controls, reader
        self._findings, self._blind = findings, blind
        self.in_sequence = False
        controls.mode_chosen.connect(self.show_mode)
        controls.difference_chosen.connect(lambda times, signed: reader.ask(times=times, signed=signed))
        controls.part_chosen.connect(self._on_part)
        controls.zoom_chosen.connect(lambda zoom: canvas.set_zoom(zoom) if zoom else canvas.fit())
        controls.map_chosen.connect(lambda _: self.show_map())
        canvas.zoom_changed.connect(controls.show_zoom)
        canvas.hovered.connect(self._on_hovered)
        reader.ready.connect(self._on_ready)
        player.shown.connect(self._on_frame)

    def show_mode(self, mode: Mode) -> None:
        """Show the pictures in another way."""
        self._canvas.show_mode(mode)
        self._controls.show_mode(mode)

    def show_map(self) -> None:
        """Lay over the pictures what was chosen, and what was found for it."""
        wanted = NO_MAP if self._blind.on or self.in_sequence else self._controls.map.currentText()
        grain = None if self._findings.found is None else self._findings.found.measured.grain
        sources = self._findings.sources
        self._canvas.overlay = None
        if wanted == NOISE_MAP and grain is not None:
            self._canvas.overlay = noise_overlay(grain.map)
        elif wanted == SOURCE_MAP and sources is not None:
            self._canvas.overlay = source_overlay(sources.map)
        lacking = wanted == SOURCE_MAP and sources is None
        self._controls.lacking.setText("the left picture does not tell its light apart" if lacking else "")
        self._canvas.update()

    def next_spot(self) -> None:
        """Go to the noisiest spot of the left picture, then to the next."""
        found = None if self._reader.size is None else self._findings.next_spot(self._reader.size[0])
        if found is not None:
            self._canvas.spot = found
            self._canvas.go_to(found[0])

    def _on_part(self, part: str) -> None:
        is_layer = part not in PARTS
        self._reader.ask(layer=part if is_layer else "", part="colour" if is_layer else part)

    def _on_ready(self, sizes: "dict[str, Sizes]") -> None:
        if not self.in_sequence:
            self._canvas.show_pictures(sizes)
        now, size = self._reader.now, self._reader.size
        self._controls.sizes.setText("")
        if now is not None and size is not None:
            own = {side: loaded.own_size for side, loaded in now.loaded.items()}
            self._controls.sizes.setText(size_words(own, size))
            self._controls.show_layers(next(iter(now.loaded.values())).layers)
        self.show_map()

    def _on_frame(self, _frame: int, sizes: "dict[str, Sizes]") -> None:
        """Show a frame of a sequence: what was measured and read of the chosen pictures is not of it."""
        self.in_sequence = True
        self._canvas.spot = None
        self.show_map()
        self._canvas.show_pictures(sizes)

    def _on_hovered(self, at: tuple[int, int] | None) -> None:
        hidden = at is None or self._blind.on or self.in_sequence
        values = {} if hidden or at is None else self._reader.values_at(at)
        words = value_words(at, values)
        sources = self._findings.sources
        if values and at is not None and sources is not None and self._controls.map.currentText() == SOURCE_MAP:
            words += measured_words.source_here(sources.map, at, self._reader.size or at)
        self._controls.values.setText(words)
