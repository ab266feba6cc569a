"""Words on screen that are terms: a dotted line under them, and the glossary when they are clicked. GUI thread."""

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QMouseEvent, QPainter, QPen
from PySide6.QtWidgets import QLabel, QWidget

from pemlo.gui.common.plain import set_tip
from pemlo.gui.common.terms import SENTENCES, term_of

_shown_by: list[Callable[[QWidget, str], None]] = []


def show_terms_with(show: Callable[[QWidget, str], None]) -> None:
    """Say what shows a term that is clicked: the glossary, which is made of labels itself."""
    _shown_by[:] = [show]


class _Asked(QObject):
    """Opens the glossary when its label is clicked."""

    def __init__(self, words: QLabel, term: str) -> None:
        super().__init__(words)
        self._term = term

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if isinstance(event, QMouseEvent) and event.type() == QEvent.Type.MouseButtonRelease:
            assert isinstance(watched, QWidget)
            for show in _shown_by:
                show(watched.window(), self._term)
            return True
        return False


def dotted(words: QLabel, text: str = "") -> QLabel:
    """Mark a label whose text is a term: a dotted line under it, its sentence as a tip, a click for the glossary.

    Parameters
    ----------
    words : QLabel
    text : str, optional
        What it will say, where that is put in later.
    """
    text = text or words.text()
    term = term_of(text)
    if term:
        words.setProperty("term", True)
        words.setCursor(Qt.CursorShape.WhatsThisCursor)
        set_tip(words, f"{term}: {SENTENCES[term]}" if term != text.lower() else SENTENCES[term])
        words.setAccessibleDescription(SENTENCES[term])
        words.installEventFilter(_Asked(words, term))
    return words


def underline(painter: QPainter, words: QLabel, text: str) -> None:
    """Draw the dotted line of a label that is a term, as long as its text, in the colour of the pen."""
    if words.property("term"):
        painter.setPen(QPen(painter.pen().color(), 1, Qt.PenStyle.DotLine))
        metrics = words.fontMetrics()
        under = min((words.height() + metrics.ascent() - metrics.descent()) // 2 + 3, words.height() - 1)
        painter.drawLine(0, under, metrics.horizontalAdvance(text), under)
