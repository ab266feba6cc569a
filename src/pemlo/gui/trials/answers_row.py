"""What may have been so where the time as asked lies apart from the others: one click each. GUI thread."""

from collections.abc import Callable, Sequence
from functools import partial

from PySide6.QtWidgets import QHBoxLayout, QWidget

from pemlo.core.forecast.disagreement_words import Answer
from pemlo.gui.common.labels import button


class AnswersRow(QWidget):
    """A button for each answer; hidden where there is no question."""

    def __init__(self, take: Callable[[Answer], None]) -> None:
        super().__init__()
        self._take = take
        self._shown: tuple[Answer, ...] = ()
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(0, 0, 0, 4)
        self._row.setSpacing(6)
        self.hide()

    def show_answers(self, given: Sequence[Answer]) -> None:
        """Show other answers."""
        if tuple(given) == self._shown:
            return
        self._shown = tuple(given)
        while (item := self._row.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        for one in self._shown:
            tip = f"Leave out {_which(one)}: {one.why}"
            self._row.addWidget(button(one.words, tip, partial(self._take, one)))
        self._row.addStretch(1)
        self.setVisible(bool(self._shown))


def _which(answer: Answer) -> str:
    return "this trial" if len(answer.trials) == 1 else f"{len(answer.trials)} trials"
