"""What keys and menus do in the judge stage, each a step of one of its parts. GUI thread."""

from typing import Protocol

from pemlo.core.project.trials import BAD, GOOD
from pemlo.gui.judge.pages import Pages
from pemlo.gui.judge.playback.play_bar import PlayBar
from pemlo.gui.judge.playback.player import Player
from pemlo.gui.judge.viewer.canvas import Canvas
from pemlo.gui.judge.viewer.choosing import Choosing
from pemlo.gui.judge.viewer.controls import Controls
from pemlo.gui.judge.viewer.overlays import MAPS
from pemlo.gui.judge.viewer.picture_row import ERRORS, LADDER, PICTURES, SHOTS, TRIALS
from pemlo.gui.judge.viewer.placement import Mode
from pemlo.gui.judge.viewer.shown import ShownPictures


class Judge(Protocol):
    """What is asked of the stage."""

    canvas: Canvas
    controls: Controls
    choosing: Choosing
    shown: ShownPictures
    pages: Pages
    player: Player
    play_bar: PlayBar

    def mark(self, what: str) -> None:
        """Mark the left picture, or the framed tile."""

    def show_sheet(self) -> bool:
        """Show the sheet beside the pictures where it belongs."""


class Commands:
    """The steps, by the names that the table of keys gives them."""

    def __init__(self, panel: Judge) -> None:
        self._panel = panel

    def mark_good(self) -> None:
        self._panel.mark(GOOD)

    def mark_bad(self) -> None:
        self._panel.mark(BAD)

    def earlier(self) -> None:
        self._panel.choosing.step(-1)

    def later(self) -> None:
        self._panel.choosing.step(1)

    def swap(self) -> None:
        self._panel.canvas.swap()
        self._panel.controls.show_mode(Mode.SWAP)

    def turn_line(self) -> None:
        self._panel.canvas.turn_line()

    def toggle_difference(self) -> None:
        now = self._panel.canvas.placement.mode
        self._panel.shown.show_mode(Mode.SPLIT if now is Mode.DIFFERENCE else Mode.DIFFERENCE)

    def next_map(self) -> None:
        box = self._panel.controls.map
        box.setCurrentIndex((box.currentIndex() + 1) % len(MAPS))
        self._panel.shown.show_map()

    def next_spot(self) -> None:
        self._panel.shown.next_spot()

    def fit(self) -> None:
        self._panel.canvas.fit()

    def whole_pixels(self) -> None:
        self._panel.canvas.set_zoom(1.0)

    def nearer(self) -> None:
        self._panel.canvas.step_zoom(1)

    def farther(self) -> None:
        self._panel.canvas.step_zoom(-1)

    def toggle_sheet(self) -> None:
        self._panel.pages.show(PICTURES if self._panel.pages.now == LADDER else LADDER)

    def next_marking(self) -> None:
        now = self._panel.pages.now
        self._panel.pages.show({SHOTS: TRIALS, TRIALS: PICTURES}.get(now, SHOTS))
        self._panel.show_sheet()

    def toggle_errors(self) -> None:
        self._panel.pages.show(PICTURES if self._panel.pages.now == ERRORS else ERRORS)

    def play_or_stop(self) -> None:
        self._panel.play_bar.toggle()

    def frame_before(self) -> None:
        self._panel.player.go(self._panel.player.frame - 1)

    def frame_after(self) -> None:
        self._panel.player.go(self._panel.player.frame + 1)
