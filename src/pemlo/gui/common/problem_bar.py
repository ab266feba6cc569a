"""Lines that tell of trouble and block nothing: what is wrong, where, and what to do. GUI thread."""

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QHBoxLayout, QVBoxLayout, QWidget

from pemlo.core.foreign import shown
from pemlo.gui.common.labels import button, label

MOST_LINES, MOST_LETTERS = 8, 400
MOST_ROWS = 4
Act = Callable[[], None]
Offer = Callable[[str, str, str, Act], None]  # words, what to do, and a button with what it does


@dataclass(frozen=True)
class _Message:
    words: str
    act: str = ""
    run: Act | None = None


class _Row(QWidget):
    """One message, with a button that does something about it if there is one."""

    def __init__(self, number: int, pressed: Callable[[int], None]) -> None:
        super().__init__()
        self.words = label("", wrap=True)
        self.words.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.words.setAccessibleName("Problem")
        self.act = button("", "Do what the message offers", lambda: pressed(number))
        self.act.setFocusPolicy(Qt.FocusPolicy.TabFocus)  # it goes when it is pressed: keys stay where they were
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.words, 1)
        row.addWidget(self.act)

    def show_message(self, message: _Message | None) -> None:
        self.words.setText(message.words if message else "")
        self.act.setText(message.act if message else "")
        self.act.setAccessibleName(self.act.text())
        self.act.setVisible(bool(self.act.text()))
        self.setVisible(message is not None)


class ProblemBar(QFrame):
    """Hidden until there is something to tell; goes when it is put away or the trouble is past."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("problems")
        self._told: list[_Message] = []
        self._rows = tuple(_Row(number, self._on_act) for number in range(MOST_ROWS))
        column = QVBoxLayout()
        column.setSpacing(4)
        for row in self._rows:
            column.addWidget(row)
        both = QHBoxLayout(self)
        both.setContentsMargins(16, 6, 16, 6)
        both.addLayout(column, 1)
        away = button("Put away", "Hide these messages", self.clear, link=True)
        both.addWidget(away, 0, Qt.AlignmentFlag.AlignTop)
        self.hide()

    @property
    def words(self) -> str:
        """All that is told, a line each; nothing while it is hidden."""
        return "" if self.isHidden() else "\n".join(message.words for message in self._told)

    @property
    def acts(self) -> tuple[QWidget, ...]:
        """The buttons of what is offered, in order."""
        return tuple(row.act for row, message in zip(self._rows, self._told, strict=False) if message.run is not None)

    def tell(self, message: str, hint: str = "", act: str = "", run: Act | None = None) -> None:
        """Show a message in place of the one before, with a button if there is one; what is offered stays."""
        kept = [one for one in self._told if one.run is not None and one.act != act]
        self._show([*kept, _message(message, hint, act, run)])

    def also(self, message: str, hint: str, act: str, run: Act) -> None:
        """Show an offer beside what is told already; one of the same kind takes the place of the one before."""
        kept = [one for one in self._told if one.act != act]
        self._show([*kept, _message(message, hint, act, run)])

    def clear(self) -> None:
        """Put everything away."""
        self._show([])

    def _show(self, told: list[_Message]) -> None:
        self._told = told[-MOST_ROWS:]
        for number, row in enumerate(self._rows):
            row.show_message(self._told[number] if number < len(self._told) else None)
        self.setVisible(bool(self._told))

    def _on_act(self, number: int) -> None:
        if number < len(self._told):
            run = self._told[number].run
            self._show([message for place, message in enumerate(self._told) if place != number])
            if run is not None:
                run()


def _message(message: str, hint: str, act: str, run: Act | None) -> _Message:
    lines = [shown(line, MOST_LETTERS) for line in message.splitlines()]
    if len(lines) > MOST_LINES:
        lines = [*lines[:MOST_LINES], f"and {len(lines) - MOST_LINES} more"]
    return _Message("\n".join([*lines, *([hint] if hint else [])]), act, run)
