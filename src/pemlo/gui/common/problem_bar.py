"""Lines that tell of trouble and block nothing: what is wrong, where, and what to do. GUI thread."""

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QHBoxLayout, QVBoxLayout, QWidget

from pemlo.core.foreign import shown
from pemlo.gui.common.labels import button, label

MOST_LINES, MOST_LETTERS = 8, 400
MOST_ROWS = 4
Act = Callable[[], None]
Offer = Callable[[str, str, str, Act], None]  # words, what to do, and a button with what it does


class _Row(QWidget):
    """One message, with a button that does something about it if there is one."""

    def __init__(self, words: str, act: str, run: Act | None, done: Callable[["_Row"], None]) -> None:
        super().__init__()
        self.run = run
        self.words = label(words, wrap=True)
        self.words.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.words.setAccessibleName("Problem")
        self.act = button(act or "Do this", "Do what the message offers", lambda: done(self))
        self.act.setVisible(bool(act))
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.words, 1)
        row.addWidget(self.act)


class ProblemBar(QFrame):
    """Hidden until there is something to tell; goes when it is put away or the trouble is past."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("problems")
        self._rows: list[_Row] = []
        self._column = QVBoxLayout()
        self._column.setSpacing(4)
        both = QHBoxLayout(self)
        both.setContentsMargins(16, 6, 16, 6)
        both.addLayout(self._column, 1)
        away = button("Put away", "Hide these messages", self.clear, link=True)
        both.addWidget(away, 0, Qt.AlignmentFlag.AlignTop)
        self.hide()

    @property
    def words(self) -> str:
        """All that is told, a line each; nothing while it is hidden."""
        return "" if self.isHidden() else "\n".join(row.words.text() for row in self._rows)

    @property
    def acts(self) -> tuple[QWidget, ...]:
        """The buttons of what is offered, in order."""
        return tuple(row.act for row in self._rows if row.run is not None)

    def tell(self, message: str, hint: str = "", act: str = "", run: Act | None = None) -> None:
        """Show a message in place of the one before, with a button if there is one; what is offered stays."""
        for row in [row for row in self._rows if row.run is None or row.act.text() == act]:
            self._remove(row)
        self._add(message, hint, act, run)

    def also(self, message: str, hint: str, act: str, run: Act) -> None:
        """Show an offer beside what is told already; one of the same kind takes the place of the one before."""
        for row in [row for row in self._rows if row.act.text() == act]:
            self._remove(row)
        self._add(message, hint, act, run)

    def clear(self) -> None:
        """Put everything away."""
        for row in tuple(self._rows):
            self._remove(row)

    def _add(self, message: str, hint: str, act: str, run: Act | None) -> None:
        lines = [shown(line, MOST_LETTERS) for line in message.splitlines()]
        if len(lines) > MOST_LINES:
            lines = [*lines[:MOST_LINES], f"and {len(lines) - MOST_LINES} more"]
        for row in self._rows[: max(len(self._rows) - MOST_ROWS + 1, 0)]:
            self._remove(row)
        made = _Row("\n".join([*lines, *([hint] if hint else [])]), act, run, self._on_act)
        self._rows.append(made)
        self._column.addWidget(made)
        self.show()

    def _remove(self, row: _Row) -> None:
        self._rows.remove(row)
        self._column.removeWidget(row)
        row.hide()
        row.deleteLater()
        if not self._rows:
            self.hide()

    def _on_act(self, row: _Row) -> None:
        run = row.run
        self._remove(row)
        if run is not None:
            run()
