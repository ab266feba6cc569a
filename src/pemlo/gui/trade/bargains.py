"""What gives most hours for least error, of all shots - and so shown only once the hand rests. GUI thread."""

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QVBoxLayout, QWidget

from pemlo.app.document import Document
from pemlo.app.planner import Planner
from pemlo.gui.common.labels import Heading, label
from pemlo.gui.trade import presenter

BARGAINS, REST_MS = 3, 80


class Bargains(QWidget):
    """A heading, and a line for each step."""

    def __init__(self, document: Document, planner: Planner) -> None:
        super().__init__()
        self._document, self._planner = document, planner
        self.heading, self.words = Heading("Most for least"), label("", wrap=True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(self.heading)
        column.addWidget(self.words)
        self._due = QTimer(self)
        self._due.setSingleShot(True)
        self._due.setInterval(REST_MS)
        self._due.timeout.connect(self._show)

    def show_soon(self) -> None:
        """Show them anew, once the hand has rested."""
        self.heading.say("…")
        self._due.start()

    @property
    def waits_for_rest(self) -> bool:
        """Whether something is said only once the hand has rested for a while."""
        return self._due.isActive()

    def _show(self) -> None:
        from pemlo.core.trade.prices import most_for_an_hour, most_for_least  # noqa: PLC0415 - heavy to load

        shots = self._document.project.shots
        steps = [step for one in shots for step in self._planner.numbers.steps_of(one)]
        film_hours = sum(now.middle_hours for one in shots if (now := self._planner.numbers.of(one)) is not None)
        savings = enumerate(most_for_least(steps, BARGAINS, film_hours), 1)
        lines = [presenter.bargain_words(number, step) for number, step in savings]
        lines = lines or [presenter.no_bargain_words(film_hours)]
        left = self._planner.hours_left()
        affordable = [step for step in steps if step.hours <= left]
        lines += [presenter.purchase_words(step) for step in most_for_an_hour(affordable if left > 0 else (), 1)]
        self.words.setText("\n".join(lines))
        self.heading.say("of all shots")
