"""Small pieces that every stage uses: titles, lines, buttons. GUI thread."""

from collections.abc import Callable

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QFrame,
    QLabel,
    QPushButton,
    QSizePolicy,
    QStyle,
    QStyleOptionButton,
    QStylePainter,
    QWidget,
)

from pemlo.gui.common.dotted import dotted, underline
from pemlo.gui.common.flow import FlowLayout
from pemlo.gui.common.fonts import SMALL, font
from pemlo.gui.common.plain import set_tip


class Words(QLabel):
    """A label that has a dotted line under it where it is a term."""

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if self.property("term"):
            with QPainter(self) as painter:
                painter.setPen(self.palette().windowText().color())
                underline(painter, self, self.text())


def label(text: str = "", role: str = "", *, small: bool = False, wrap: bool = False) -> QLabel:
    """Return a label in a role: title, second, faint, limit, time."""
    made = Words(text)
    made.setTextFormat(Qt.TextFormat.PlainText)
    made.setProperty("role", role)
    made.setWordWrap(wrap)
    if small:
        made.setFont(font(SMALL))
    return made


class Elided(QLabel):
    """A line that ends in dots where there is no room for all of it, and says the whole of it as a tip."""

    def __init__(self, role: str = "") -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setProperty("role", role)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)

    def setText(self, text: str) -> None:
        super().setText(text)
        set_tip(self, text)

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setPen(self.palette().windowText().color())
            words = self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, self.width())
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignVCenter, words)
            underline(painter, self, words)


class Shortened(QPushButton):
    """A button as wide as its place: its text ends in dots where it is longer, and is said whole as a tip."""

    def __init__(self, tip: str, on_click: Callable[[], None]) -> None:
        super().__init__()
        self._tip = tip
        self.setAccessibleDescription(tip)
        self.setProperty("main", True)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        self.setAutoDefault(False)
        self.clicked.connect(lambda _: on_click())

    def setText(self, text: str) -> None:
        super().setText(text)
        self.setAccessibleName(text)
        set_tip(self, f"{text}\n{self._tip}")

    def minimumSizeHint(self) -> QSize:
        return QSize(0, self.sizeHint().height())

    def paintEvent(self, _event: QPaintEvent) -> None:
        option = QStyleOptionButton()
        self.initStyleOption(option)
        room = self.style().subElementRect(QStyle.SubElement.SE_PushButtonContents, option, self).width()
        option.text = self.fontMetrics().elidedText(option.text, Qt.TextElideMode.ElideRight, room)
        drawn = QStylePainter(self)
        drawn.drawControl(QStyle.ControlElement.CE_PushButton, option)
        drawn.end()


def button(text: str, tip: str, on_click: Callable[[], None], *, main: bool = False, link: bool = False) -> QPushButton:
    """Return a button that says what will happen."""
    made = QPushButton(text)
    set_tip(made, tip)
    made.setAccessibleName(text)
    made.setAccessibleDescription(tip)
    made.setProperty("main", main)
    made.setProperty("link", link)
    made.setAutoDefault(False)
    made.clicked.connect(lambda _: on_click())
    return made


def rule(*, upright: bool = False) -> QFrame:
    """Return a thin line."""
    made = QFrame()
    made.setObjectName("upright" if upright else "rule")
    if upright:
        made.setFixedWidth(1)
    else:
        made.setFixedHeight(1)
    return made


class Heading(QWidget):
    """A title with a line beside it in second ink, and buttons or fields at the right; below where there is no room."""

    def __init__(self, title: str, *beside: QWidget) -> None:
        super().__init__()
        self._title = dotted(label(title, "title"))
        self._beside = Elided("second")
        row = FlowLayout(self)
        row.addWidget(self._title)
        row.add_stretched(self._beside)
        for widget in beside:
            row.addWidget(widget)

    def say(self, beside: str, title: str | None = None) -> None:
        self._beside.setText(beside)
        if title is not None:
            self._title.setText(title)
