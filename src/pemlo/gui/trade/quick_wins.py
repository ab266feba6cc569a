"""The largest savings, of all shots - and so shown only once the hand rests. GUI thread."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QSize, Qt, QTimer, Signal
from PySide6.QtWidgets import QPushButton, QSizePolicy, QVBoxLayout, QWidget

from pemlo.app.planner import Planner
from pemlo.gui.common.labels import Heading, label
from pemlo.gui.common.plain import set_tip
from pemlo.gui.trade import presenter

if TYPE_CHECKING:
    from collections.abc import Mapping

    from pemlo.core.project.settings import ShotSettings

BARGAINS, REST_MS = 3, 80


class ActionButton(QPushButton):
    """A button whose words take as many lines as they need."""

    def __init__(self) -> None:
        super().__init__()
        self.setProperty("action", True)
        self.words = label("", wrap=True)
        self.words.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 4, 8, 4)
        column.addWidget(self.words)
        policy = QSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)
        self.setAutoDefault(False)

    def say(self, words: str) -> None:
        """Say what it does."""
        self.words.setText(words)
        self.setAccessibleName(words)
        set_tip(self, f"{words}. One step to undo")
        self.updateGeometry()

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return self.words.heightForWidth(width - 16) + 8

    def sizeHint(self) -> QSize:
        return QSize(200, self.heightForWidth(max(self.width(), 200)))


class QuickWins(QWidget):
    """A heading, and a button for each step.

    Signals
    -------
    wanted(mapping of str to ShotSettings)
        Settings of shots that are to be taken.
    """

    wanted = Signal(object)

    def __init__(self, planner: Planner) -> None:
        super().__init__()
        self._planner = planner
        self.heading, self.words = Heading("Best steps"), label("", "second", wrap=True)
        self.buttons = tuple(ActionButton() for _ in range(BARGAINS + 1))
        self._steps: dict[int, Mapping[str, ShotSettings]] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(self.heading)
        column.addWidget(self.words)
        for number, action_button in enumerate(self.buttons):
            action_button.clicked.connect(lambda _, number=number: self._on_clicked(number))
            action_button.hide()
            column.addWidget(action_button)
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

    @property
    def shown(self) -> tuple[str, ...]:
        """What the buttons say."""
        return tuple(
            action_button.words.text() for number, action_button in enumerate(self.buttons) if number in self._steps
        )

    def _show(self) -> None:
        from pemlo.core.trade.prices import most_for_an_hour  # noqa: PLC0415 - heavy to load
        from pemlo.core.trade.savings import savings  # noqa: PLC0415 - as above

        shots = self._planner.weighed_shots()
        steps = [step for shot in shots for step in self._planner.numbers.steps_of(shot)]
        film_hours = sum(now.middle_hours for now in self._planner.numbers.of_all().values())
        large = [step for shot in shots for step in self._planner.numbers.saving_steps_of(shot)]
        found: list[tuple[Mapping[str, ShotSettings], str]] = [
            (saving.settings, presenter.saving_line(saving)) for saving in savings(large, film_hours, BARGAINS)
        ]
        self.words.setText("" if found else presenter.no_bargain_words(film_hours))
        self.words.setVisible(not found)
        left = self._planner.hours_left()
        affordable = [step for step in steps if step.hours <= left]
        best = most_for_an_hour(affordable if left > 0 else (), 1)
        found += [({step.shot: step.settings}, presenter.purchase_words(step)) for step in best]
        self._steps = dict(enumerate(settings for settings, _ in found))
        for number, one in enumerate(self.buttons):
            one.setVisible(number < len(found))
            if number < len(found):
                one.say(found[number][1])
        self.heading.say("of all shots; click to do it")

    def _on_clicked(self, number: int) -> None:
        if number in self._steps:
            self.wanted.emit(self._steps.pop(number))
