"""The trial that comes first, where a way of rendering cannot be weighed yet: why, what, and a button. GUI thread."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFrame, QVBoxLayout

from pemlo.gui.common.labels import button, label
from pemlo.gui.trade.presenter import first_words, more_words

if TYPE_CHECKING:
    from pemlo.core.trade.trial_first import TrialFirst


class FirstCard(QFrame):
    """The card.

    Signals
    -------
    wanted(TrialFirst)
        The trial is to be rendered.
    """

    wanted = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self._first: TrialFirst | None = None
        self._more: TrialFirst | None = None
        self.words = label("", "limit", wrap=True)
        self.render_it = button("Render this trial", "Then the plan is weighed with what it tells", self._on_first)
        self.more_text = label("", "second", wrap=True)
        self.render_more = button("Render it", "Then levers reach farther on this shot", self._on_more, link=True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        left = Qt.AlignmentFlag.AlignLeft
        column.addWidget(self.words)
        column.addWidget(self.render_it, 0, left)
        column.addWidget(self.more_text)
        column.addWidget(self.render_more, 0, left)

    def show_trials(self, first: "TrialFirst | None", more: "Sequence[TrialFirst]", *, can_render: bool) -> None:
        """Show the trial without which the present settings cannot be weighed, and one that would tell more."""
        self._first, self._more = first, (more[0] if more and first is None else None)
        self.words.setText("" if first is None else first_words(first))
        self.more_text.setText("" if self._more is None else more_words(self._more))
        for text, asking, what in ((self.words, self.render_it, first), (self.more_text, self.render_more, self._more)):
            text.setVisible(what is not None)
            asking.setVisible(what is not None and can_render)
        self.setVisible(first is not None or bool(more))

    def _on_first(self) -> None:
        if self._first is not None:
            self.wanted.emit(self._first)

    def _on_more(self) -> None:
        if self._more is not None:
            self.wanted.emit(self._more)
