"""Help on the stages and the page of shortcuts. GUI thread."""

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QLabel, QScrollArea, QVBoxLayout

from pemlo.gui.common.glossary import show_glossary
from pemlo.gui.judge.keys import KEYS
from pemlo.gui.stages import STAGES

if TYPE_CHECKING:
    from pemlo.gui.window import Window


WIDE, HIGH = 620, 620  # px; what does not fit is scrolled


def show_help(window: "Window") -> None:
    """Show help on the stage that is open."""
    link = "<p><a href='terms'>What the terms mean</a></p>"
    _show(window, "Help", STAGES[window.stack.currentIndex()].help + link)


def show_shortcuts(window: "Window") -> None:
    """Show every shortcut, from the table of actions."""
    rows = [(action.shortcut, action.text) for action in window.actions_table if action.shortcut]
    rows += [("Enter, F2", "Edit the marked cell"), ("Delete", "Remove the picked rows"), ("Ctrl+V", "Paste rows")]
    rows += [("Left, Right", "The shot before or after, on the strip")]
    rows += [(f"{key} in Judge", text) for key, text, _ in KEYS]
    cells = "".join(f"<tr><td><b>{keys}</b>&nbsp;&nbsp;</td><td>{text}</td></tr>" for keys, text in rows)
    _show(window, "Shortcuts", f"<h3>Shortcuts</h3><table cellpadding=3>{cells}</table>")


def _show(window: "Window", title: str, words: str) -> None:
    dialog = QDialog(window)
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.setWindowTitle(title)
    text = QLabel(words)
    text.setTextFormat(Qt.TextFormat.RichText)
    text.setWordWrap(True)
    text.setAlignment(Qt.AlignmentFlag.AlignTop)
    text.setContentsMargins(20, 12, 20, 20)
    text.setTextInteractionFlags(
        Qt.TextInteractionFlag.TextSelectableByMouse | Qt.TextInteractionFlag.LinksAccessibleByMouse
        | Qt.TextInteractionFlag.LinksAccessibleByKeyboard
    )  # fmt: skip
    text.linkActivated.connect(lambda _: show_glossary(window))
    area = QScrollArea()
    area.setWidget(text)
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    column = QVBoxLayout(dialog)
    column.setContentsMargins(0, 0, 0, 0)
    column.addWidget(area)
    dialog.resize(WIDE, min(text.heightForWidth(WIDE) + 8, HIGH))
    dialog.open()
