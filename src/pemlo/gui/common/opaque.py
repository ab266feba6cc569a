"""A widget that paints all of itself: what changes in it paints nothing that lies behind. GUI thread."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QFrame, QStyle, QStyleOption


class Opaque(QFrame):
    """A frame with a background of its own in the style sheet, by its name."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setObjectName(name)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Fill it from the style sheet: Qt leaves that out for a widget that says it is opaque."""
        look = QStyleOption()
        look.initFrom(self)
        with QPainter(self) as painter:
            self.style().drawPrimitive(QStyle.PrimitiveElement.PE_Widget, look, painter, self)
