"""Lets Tab go through a panel as it is read: in the order of its layouts, column by column. GUI thread."""

from collections.abc import Iterator
from itertools import pairwise

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLayout, QScrollArea, QSplitter, QStackedWidget, QWidget


def set_reading_order(panel: QWidget) -> None:
    """Set the order of Tab in a panel; made anew where widgets were made in another order than they stand."""
    for before, after in pairwise(reading_order(panel)):
        QWidget.setTabOrder(before, after)


def reading_order(panel: QWidget) -> list[QWidget]:
    """Return what takes the keys in a panel, in reading order."""
    return [widget for widget in _walk(panel) if widget.focusPolicy() & Qt.FocusPolicy.TabFocus]


def _walk(widget: QWidget) -> Iterator[QWidget]:
    yield widget
    if isinstance(widget, QScrollArea):
        inside = widget.widget()
        yield from () if inside is None else _walk(inside)
    elif isinstance(widget, QSplitter | QStackedWidget):
        for number in range(widget.count()):
            part = widget.widget(number)
            yield from () if part is None else _walk(part)
    else:
        layout = widget.layout()
        yield from () if layout is None else _walk_layout(layout)


def _walk_layout(layout: QLayout) -> Iterator[QWidget]:
    for number in range(layout.count()):
        item = layout.itemAt(number)
        if item is None:
            continue
        inner, widget = item.layout(), item.widget()
        if inner is not None:
            yield from _walk_layout(inner)
        elif widget is not None:
            yield from _walk(widget)
