"""What of a window's texts is cut, or lies on others: found by what each widget needs and has."""

import math
from contextlib import contextmanager

from PySide6.QtCore import QRect, Qt
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractScrollArea,
    QComboBox,
    QLabel,
    QWidget,
)

from pemlo.gui.common.choice import Choice
from pemlo.gui.common.labels import Elided, Shortened

ARROW = 22  # px of a box of choices beside its text
SLACK = 1  # px that rounding may take


def cut_texts(root):
    """Return every visible text below a widget that has less room than it needs, with what is missing in px."""
    return [
        f"{name_of(widget)}: “{text_of(widget)[:60]}” lacks {lack} px"
        for widget in root.findChildren(QWidget)
        if widget.isVisible() and text_of(widget) and (lack := max(lacking(widget), beyond(widget))) > SLACK
    ]


def text_of(widget):
    if isinstance(widget, (QLabel, QAbstractButton)):
        return widget.text()
    return widget.currentText() if isinstance(widget, QComboBox) else ""


def beyond(widget):
    """Return how many px of a widget lie where no scroll bar leads."""
    area = widget.parentWidget()
    while area is not None and not isinstance(area, QAbstractScrollArea):
        area = area.parentWidget()
    if area is None or area.horizontalScrollBarPolicy() != Qt.ScrollBarPolicy.ScrollBarAlwaysOff:
        return 0
    return widget.mapTo(area.viewport(), widget.rect().topRight()).x() + 1 - area.viewport().width()


def name_of(widget):
    names = []
    while widget is not None and not widget.isWindow():
        names.append(type(widget).__name__)
        widget = widget.parentWidget()
    return " in ".join(names[:3])


def lacking(widget):
    """Return how many px of a text are not seen; dots with a tool tip are no loss."""
    hint = widget.sizeHint()
    if isinstance(widget, (Elided, Choice, Shortened)):
        return 0 if widget.toolTip() else hint.width() - widget.width()
    if isinstance(widget, QLabel):
        if widget.wordWrap():
            return widget.heightForWidth(widget.width()) - widget.height()
        return max(hint.width() - widget.width(), hint.height() - widget.height())
    if isinstance(widget, QComboBox):
        return widget.fontMetrics().horizontalAdvance(widget.currentText()) + ARROW - widget.width()
    return max(hint.width() - widget.width(), hint.height() - widget.height() - 2)


def overlaps(root):
    """Return pairs of sibling widgets with texts that lie on each other."""
    found = []
    for parent in (root, *root.findChildren(QWidget)):
        if isinstance(parent, QAbstractScrollArea) or not parent.isVisible():
            continue
        texts = [
            w for w in parent.children() if isinstance(w, QWidget) and w.isVisible() and not w.isWindow() and text_of(w)
        ]
        for k, first in enumerate(texts):
            for second in texts[k + 1 :]:
                both = QRect(first.geometry()) & QRect(second.geometry())
                if both.width() > SLACK and both.height() > SLACK:
                    found.append(f"“{text_of(first)[:40]}” lies on “{text_of(second)[:40]}”")
    return found


@contextmanager
def longer_texts(root):
    """Make every text below a widget a third longer for a while, as another language or a longer name would."""
    before = {
        widget: widget.text()
        for widget in root.findChildren(QWidget)
        if isinstance(widget, (QLabel, QAbstractButton)) and widget.isVisible() and len(widget.text()) > 1
    }
    for widget, text in before.items():
        widget.setText(f"{text} {'letters ' * math.ceil(len(text) / 24)}".strip())
    yield
    for widget, text in before.items():
        widget.setText(text)
