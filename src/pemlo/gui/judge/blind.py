"""Judging without knowing which is which: sides are shuffled until a mark is set. Qt-free."""

import random

from pemlo.gui.judge.presenter import PictureChoice


class Blind:
    """Whether it is on, and which way round the two pictures lie."""

    def __init__(self) -> None:
        self.on = False
        self._turned = False
        self._dice = random.SystemRandom()

    def turn(self, on: bool) -> None:  # noqa: FBT001 - it is turned on or off
        self.on = on

    def deal(self) -> None:
        """Shuffle the sides anew."""
        self._turned = self.on and self._dice.random() < 0.5

    def ordered(
        self, left: PictureChoice | None, right: PictureChoice | None
    ) -> tuple[PictureChoice | None, PictureChoice | None]:
        """Return the pictures in the order in which they are shown."""
        return (right, left) if self._turned and left is not None and right is not None else (left, right)

    def marked(self, left: PictureChoice, right: PictureChoice | None) -> PictureChoice | None:
        """Return which of them lies at the left, and is marked."""
        return self.ordered(left, right)[0]
