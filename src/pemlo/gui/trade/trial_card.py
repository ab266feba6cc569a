"""A trial that would tell what is not known: why, what, and a button to render it. GUI thread."""

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFrame, QVBoxLayout

from pemlo.gui.common.labels import button, label

if TYPE_CHECKING:
    from pemlo.core.trade.required_test import RequiredTest


class TrialCard(QFrame):
    """The card.

    Parameters
    ----------
    tip : str
        What rendering the trial is good for.
    needed : bool
        Whether nothing can be weighed without it, or it only tells more.

    Signals
    -------
    wanted(TrialFirst)
        The trial is to be rendered.
    """

    wanted = Signal(object)

    def __init__(self, tip: str, *, needed: bool) -> None:
        super().__init__()
        self._trial: RequiredTest | None = None
        self.words = label("", "limit" if needed else "second", wrap=True)
        self.render_it = button("Render this trial", tip, self._on_wanted, link=not needed)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(self.words)
        column.addWidget(self.render_it, 0, Qt.AlignmentFlag.AlignLeft)
        self.hide()  # until there is a trial

    def show_trial(self, trial: "RequiredTest | None", words: str, *, can_render: bool) -> None:
        """Show a trial; None if all is known."""
        self._trial = trial
        self.words.setText(words)
        self.render_it.setVisible(can_render)
        self.setVisible(trial is not None)

    def _on_wanted(self) -> None:
        if self._trial is not None:
            self.wanted.emit(self._trial)
