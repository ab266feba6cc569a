"""Text from documents, shown as it is: what looks like a tag in a shot's name must open no file. GUI thread.

Widgets guess whether a text is rich; tips cannot be set to plain. All tips go through here.
"""

from html import escape
from typing import Protocol

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QToolTip, QWidget

from pemlo.core.foreign import visible


class HasTip(Protocol):
    """A widget, an action or an item of a list."""

    def setToolTip(self, text: str, /) -> None:
        """Take a tip."""


def as_tip(text: str) -> str:
    """Return a text that a tip shows letter by letter.

    Examples
    --------
    >>> as_tip("24 h"), as_tip("<img src='/dev/zero'>")
    ('24 h', '<qt>&lt;img src=&#x27;/dev/zero&#x27;&gt;</qt>')
    """
    text = visible(text)
    return f"<qt>{escape(text)}</qt>".replace("\n", "<br>") if "<" in text else text


def set_tip(what: HasTip, text: str) -> None:
    """Give a widget, an action or an item its tip."""
    what.setToolTip(as_tip(text))


def show_tip(where: QPoint, text: str, widget: QWidget) -> None:
    """Show a tip now."""
    QToolTip.showText(where, as_tip(text), widget)


def as_entry(text: str) -> str:
    """Return a text for a menu, in which an ampersand is no shortcut."""
    return text.replace("&", "&&")
