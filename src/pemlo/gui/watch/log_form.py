"""The form that learns to read a log: in one of its lines somebody marks what is what. GUI thread."""

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QTextCharFormat, QTextCursor
from PySide6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QGridLayout,
    QHBoxLayout,
    QPlainTextEdit,
    QTextEdit,
    QVBoxLayout,
    QWidget,
)

from pemlo.core.arrivals.log_reader import LogPattern, pattern_of, try_on
from pemlo.core.errors import InputError
from pemlo.core.files.text_lines import first_lines
from pemlo.core.foreign import gives_orders, visible
from pemlo.core.project.record import build
from pemlo.core.project.watching import LOG_FIELDS, LogExample, LogField, LogFile
from pemlo.gui.common.colours import colours
from pemlo.gui.common.enabling import enable
from pemlo.gui.common.labels import button, label

WORDS = (
    "Select the characters of the frame in one line, and press “frame”; then its seconds, or the time of day at which "
    "it was begun or ended. Shot, machine, samples and memory may be marked too. Where begin and end stand in lines of "
    "their own, mark one line of each."
)
_NAMES: dict[LogField, str] = {
    "frame": "frame", "seconds": "seconds", "shot": "shot", "machine": "machine", "samples": "samples",
    "memory": "memory", "begun": "begun at", "ended": "ended at",
}  # fmt: skip


def _in_place(line: str) -> str:
    """Return a line as it is shown: as long as it is, so that what is marked stands where it is marked."""
    return "".join("\ufffd" if (gives_orders(one) and one != "\t") or ord(one) > 0xFFFF else one for one in line)


UNMARKED = "Mark what is what in a line first."


class LogForm(QDialog):
    """The form; what it made is `log`."""

    def __init__(self, parent: QWidget, path: Path, shown_path: str) -> None:
        super().__init__(parent)
        self._lines, self._shown_path = first_lines(path), shown_path
        self._marks: dict[int, dict[LogField, tuple[int, int]]] = {}
        self.log: LogFile | None = None
        self.setWindowTitle(f"How {path.name} is read")
        self.text = QPlainTextEdit("\n".join(map(_in_place, self._lines)))
        self.text.setReadOnly(True)
        self.text.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        self.text.setAccessibleName("Lines of the log")
        self.text.setTextInteractionFlags(
            Qt.TextInteractionFlag.TextSelectableByMouse | Qt.TextInteractionFlag.TextSelectableByKeyboard
        )
        grid = QGridLayout()
        self.fields = {}
        for number, field in enumerate(LOG_FIELDS):
            made = button(_NAMES[field], f"What is selected is the {_NAMES[field]}", self._marker(field))
            self.fields[field] = made
            grid.addWidget(made, number // 4, number % 4)
        self.found = label("Nothing is marked yet.", "second", wrap=True)
        self.wrong = label("", "limit", wrap=True)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        self.take = button("Read the log so", "Keep it with the project", self._accept, main=True)
        enable(self.take, UNMARKED)
        buttons.addButton(self.take, QDialogButtonBox.ButtonRole.ActionRole)
        buttons.rejected.connect(self.reject)
        clear = button("Begin again", "Take all marks away", self._clear, link=True)
        low = QHBoxLayout()
        low.addWidget(clear)
        low.addStretch(1)
        low.addWidget(buttons)
        column = QVBoxLayout(self)
        column.addWidget(label(WORDS, "second", wrap=True))
        column.addWidget(self.text, 1)
        column.addLayout(grid)
        column.addWidget(self.found)
        column.addWidget(self.wrong)
        column.addLayout(low)
        self.resize(860, 560)

    def _marker(self, field: LogField):  # type: ignore[no-untyped-def]  # noqa: ANN202 - a slot
        return lambda: self.mark(field)

    def mark(self, field: LogField) -> None:
        """Mark what is selected."""
        cursor = self.text.textCursor()
        begin, end = cursor.selectionStart(), cursor.selectionEnd()
        block = self.text.document().findBlock(begin)
        if begin == end or block != self.text.document().findBlock(end - 1):
            self.wrong.setText("Select characters of one line first.")
            return
        line, at = block.blockNumber(), block.position()
        if line not in self._marks and len(self._marks) == 2:
            self.wrong.setText("Two lines are marked already, one for the begin and one for the end.")
            return
        self._marks.setdefault(line, {})[field] = (begin - at, end - at)
        self.wrong.setText("")
        self._show()

    def _clear(self) -> None:
        self._marks.clear()
        self.wrong.setText("")
        self._show()

    @property
    def examples(self) -> tuple[LogExample, ...]:
        """What is marked.

        Raises
        ------
        InputError
            If it cannot be read.
        """
        found = []
        for line, marks in sorted(self._marks.items()):
            values = [{"field": name, "begin": a, "end": b} for name, (a, b) in marks.items()]
            found.append(build(LogExample, {"line": self._lines[line], "marks": values}, f"Line {line + 1}"))
        return tuple(found)

    def _show(self) -> None:
        """Show marks in the text, and what can be read with them."""
        picked = []
        for line, marks in self._marks.items():
            block = self.text.document().findBlockByNumber(line)
            for begin, end in marks.values():
                form = QTextCharFormat()
                form.setBackground(colours().time_light)
                form.setFontUnderline(True)
                cursor = QTextCursor(block)
                cursor.setPosition(block.position() + begin)
                cursor.setPosition(block.position() + end, QTextCursor.MoveMode.KeepAnchor)
                one = QTextEdit.ExtraSelection()
                one.cursor, one.format = cursor, form
                picked.append(one)
        self.text.setExtraSelections(picked)
        for field, made in self.fields.items():
            done = any(field in marks for marks in self._marks.values())
            made.setText(f"{_NAMES[field]} ✓" if done else _NAMES[field])
        enable(self.take, UNMARKED)
        if not self._marks:
            self.found.setText("Nothing is marked yet.")
            return
        try:
            patterns: list[LogPattern] = [pattern_of(log_example, self._lines) for log_example in self.examples]
        except InputError as error:
            self.found.setText(str(error))
            return
        read = try_on(patterns, self._lines)
        words = f"{read.read} of {read.read + read.unread} lines are read."
        if read.first_unread:
            words += f" The first that is not: “{visible(read.first_unread[0][:120])}”"
        self.found.setText(words)
        enable(self.take, "" if read.read else "No line is read so. Mark the fields of another line.")

    def _accept(self) -> None:
        try:
            self.log = build(LogFile, {"path": self._shown_path, "examples": self.examples}, "The log")
        except InputError as error:
            self.wrong.setText(str(error))
            return
        self.accept()
