"""Which shot and which two pictures are shown, and every way to choose others. GUI thread."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from pemlo.gui.judge.presenter import PictureChoice, first_pair
from pemlo.gui.judge.viewer.pair import Pair
from pemlo.gui.judge.viewer.picture_row import PictureRow


class Choosing(QObject):
    """The choice, and the row that shows it.

    Signals
    -------
    changed()
        Other pictures were chosen.
    """

    changed = Signal()

    def __init__(self, row: PictureRow, files_given: Callable[[list[Path]], None], hidden: Callable[[], bool]) -> None:
        super().__init__()
        self.row, self._files_given, self._hidden = row, files_given, hidden
        self.shot, self.pair = "", Pair()
        row.picked.connect(self._on_picked)
        row.swapped.connect(self.swap_sides)

    def show_shot(self, shot: str) -> None:
        """Begin anew with a shot."""
        self.shot, self.pair = shot, Pair()

    def offer(self, among: tuple[PictureChoice, ...]) -> None:
        """Offer the pictures there are: what was chosen stays if it is still there."""
        left, right = (_as_it_is_now(choice, among) for choice in (self.pair.left, self.pair.right))
        if left is None and right is None:
            left, right = first_pair(among)
        self.pair = Pair(left, right, among)
        self.row.show_choices(among, left, right)

    def show_files(self, paths: list[Path]) -> None:
        """Show files: one at the left, a second at the right; more can be chosen."""
        self._files_given(paths)
        taken = [self.row.take_file(path) for path in paths]
        if taken:
            self.show_pair(taken[0], taken[1] if len(taken) > 1 else None)

    def show_prediction(self, path: Path, name: str, beside: Path) -> None:
        """Show a picture that was predicted at the left, and another at the right."""
        right = next((choice for choice in self.pair.among if choice.path == beside), None) or self.row.take_file(
            beside
        )
        self.show_pair(self.row.take_file(path, name), right)

    def show_pair(self, left: PictureChoice, right: PictureChoice | None) -> None:
        """Show two pictures; the right one stays if there is none."""
        self.pair = replace(self.pair, left=left, right=right or self.pair.right)
        self.changed.emit()

    def show_trial(self, index: int) -> None:
        """Show a trial at the left, by its place in the document."""
        chosen = next((choice for choice in self.pair.among if choice.index == index), None)
        if chosen is not None:
            self.show_pair(chosen, None)

    def swap_sides(self) -> None:
        """Put the left picture to the right."""
        if self.pair.left is not None and self.pair.right is not None:
            self.show_pair(self.pair.right, self.pair.left)

    def step(self, by: int) -> None:
        """Show the trial so many after the left one at the left."""
        among = self.pair.among
        if self.pair.left in among and not self._hidden():
            self.show_pair(among[(among.index(self.pair.left) + by) % len(among)], None)

    def _on_picked(self, side: str, chosen: PictureChoice | None) -> None:
        if chosen is not None:
            self.pair = replace(self.pair, left=chosen) if side == "left" else replace(self.pair, right=chosen)
        self.changed.emit()


def _as_it_is_now(choice: PictureChoice | None, among: tuple[PictureChoice, ...]) -> PictureChoice | None:
    """Return a choice as the document has it now: a mark makes a trial another record, and edits move it."""
    if choice is None or choice.trial is None:
        return choice
    return next((one for one in among if one.path == choice.path), None)
