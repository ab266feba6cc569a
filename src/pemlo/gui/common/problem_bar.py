"""A line that tells of trouble and blocks nothing: what is wrong, where, and what to do. GUI thread."""

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QHBoxLayout

from pemlo.core.foreign import shown
from pemlo.gui.common.labels import button, label

MOST_LINES, MOST_LETTERS = 8, 400
Offer = Callable[[str, str, str, Callable[[], None]], None]  # words, what to do, and a button with what it does


class ProblemBar(QFrame):
    """Hidden until there is something to tell; goes when it is put away or the trouble is past."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("problems")
        self._words = label("", wrap=True)
        self._words.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self._words.setAccessibleName("Problem")
        self._act = button("Do this", "Do what the message offers", self._on_act)
        self._run: Callable[[], None] | None = None
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 6, 16, 6)
        row.addWidget(self._words, 1)
        row.addWidget(self._act)
        row.addWidget(button("Put away", "Hide this message", self.clear, link=True))
        self.hide()

    @property
    def words(self) -> str:
        return self._words.text() if not self.isHidden() else ""

    def tell(self, message: str, hint: str = "", act: str = "", run: Callable[[], None] | None = None) -> None:
        """Show a message, with a button that does something about it if there is one."""
        lines = [shown(line, MOST_LETTERS) for line in message.splitlines()]
        if len(lines) > MOST_LINES:
            lines = [*lines[:MOST_LINES], f"and {len(lines) - MOST_LINES} more"]
        self._words.setText("\n".join([*lines, *([hint] if hint else [])]))
        self._run = run
        self._act.setText(act)
        self._act.setAccessibleName(act)
        self._act.setVisible(bool(act))
        self.show()

    def also(self, message: str, hint: str, act: str, run: Callable[[], None]) -> None:
        """Tell more, beside what is told already; of two buttons the one that is there stays."""
        if self.isHidden():
            self.tell(message, hint, act, run)
            return
        words, kept = f"{self._words.text()}\n{message}", self._run
        if kept is None:
            self.tell(words, hint, act, run)
        else:
            self._words.setText(words)

    def clear(self) -> None:
        self._run = None
        self.hide()

    def _on_act(self) -> None:
        run = self._run
        self.clear()
        if run is not None:
            run()
