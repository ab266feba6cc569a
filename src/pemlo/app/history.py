"""Steps that can be undone: which values a change swapped, and where among them the document stands. GUI thread.

Our own in place of Qt's stack: that one owns its commands, and where Python collects a document that refers to itself,
both free them, which ends the process (docs/decisions/0011-own-history.md).
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Generic, TypeVar

from PySide6.QtCore import QObject, Signal

V = TypeVar("V")


@dataclass(frozen=True)
class DoneStep(Generic[V]):
    """One step: what it is called, the value before and after, and the gesture that it is part of, if any."""

    text: str
    before: V
    after: V
    gesture: str = ""


class History(QObject, Generic[V]):
    """The steps of a document.

    Parameters
    ----------
    show : callable
        Shows another value; called by `push`, `undo` and `redo`.

    Signals
    -------
    moved(int)
        So many steps are done now.
    clean_changed(bool)
        Whether what is shown is what was saved.
    """

    moved = Signal(int)
    clean_changed = Signal(bool)

    def __init__(self, show: Callable[[V], None]) -> None:
        super().__init__()
        self._show = show
        self._steps: list[DoneStep[V]] = []
        self._index = 0
        self._clean: int | None = 0  # how many steps were done when it was saved; None if no state is that one

    def push(self, step: DoneStep[V]) -> None:
        """Do a step. One of the same gesture as the last, since the last save, goes on with it."""
        if self._clean is not None and self._clean > self._index:
            self._clean = None  # the saved state can be reached no more
        del self._steps[self._index :]
        last = self._steps[-1] if self._steps else None
        self._show(step.after)
        if last is not None and step.gesture and step.gesture == last.gesture and self._index != self._clean:
            self._steps[-1] = replace(last, after=step.after)
            if last.before == step.after:  # a drag that ends where it began is none
                self._steps.pop()
        else:
            self._steps.append(step)
        self._move(len(self._steps))

    def undo(self) -> None:
        """Take the last step back."""
        if self.can_undo():
            self._show(self._steps[self._index - 1].before)
            self._move(self._index - 1)

    def redo(self) -> None:
        """Do the step again that was taken back last."""
        if self.can_redo():
            self._show(self._steps[self._index].after)
            self._move(self._index + 1)

    def can_undo(self) -> bool:
        """Whether there is a step to take back."""
        return self._index > 0

    def can_redo(self) -> bool:
        """Whether there is a step to do again."""
        return self._index < len(self._steps)

    def undo_text(self) -> str:
        """What the step is called that would be taken back; empty if there is none."""
        return self._steps[self._index - 1].text if self.can_undo() else ""

    def redo_text(self) -> str:
        """What the step is called that would be done again; empty if there is none."""
        return self._steps[self._index].text if self.can_redo() else ""

    def count(self) -> int:
        """How many steps there are, those taken back among them."""
        return len(self._steps)

    def is_clean(self) -> bool:
        """Whether what is shown is what was saved."""
        return self._clean == self._index

    def set_clean(self) -> None:
        """Remember that what is shown is what was saved."""
        self._set_clean(self._index)

    def reset_clean(self) -> None:
        """Remember that no state is what was saved."""
        self._set_clean(None)

    def clear(self) -> None:
        """Forget all steps; what is shown is what was saved."""
        self._steps.clear()
        self._clean = 0
        self._move(0)

    def _set_clean(self, index: int | None) -> None:
        was, self._clean = self.is_clean(), index
        if was != self.is_clean():
            self.clean_changed.emit(self.is_clean())

    def _move(self, index: int) -> None:
        self._index = index
        self.moved.emit(index)
        self.clean_changed.emit(self.is_clean())
