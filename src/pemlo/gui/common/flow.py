"""Rows of widgets that go on below where there is no room beside. GUI thread."""

from PySide6.QtCore import QPoint, QRect, QSize, Qt
from PySide6.QtWidgets import QLayout, QLayoutItem, QWidget


class FlowLayout(QLayout):
    """Lays its widgets out from left to right, and on in the next row where the width ends.

    Where all of them fit in one row, one that was given all the rest of it (`add_stretched`) takes it.
    """

    def __init__(self, owner: QWidget, spacing: int = 8) -> None:
        super().__init__(owner)
        self._items: list[QLayoutItem] = []
        self._stretched: QWidget | None = None
        self.setContentsMargins(0, 0, 0, 0)
        self.setSpacing(spacing)

    def add_stretched(self, widget: QWidget) -> None:
        """Add a widget that takes what is left of its row."""
        self._stretched = widget
        self.addWidget(widget)

    # What Qt asks of a layout

    def addItem(self, item: QLayoutItem) -> None:
        self._items.append(item)

    def count(self) -> int:
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def expandingDirections(self) -> Qt.Orientation:
        return Qt.Orientation(0)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        rows = self._rows(width)
        return sum(self._height(row) for row in rows) + self.spacing() * max(len(rows) - 1, 0)

    def sizeHint(self) -> QSize:
        shown = self._shown()
        wide = sum(self._width(item) for item in shown) + self.spacing() * max(len(shown) - 1, 0)
        return QSize(wide, self._height(shown))

    def minimumSize(self) -> QSize:
        shown = self._shown()
        return QSize(max((self._width(item) for item in shown), default=0), self._height(shown))

    def setGeometry(self, rect: QRect) -> None:
        super().setGeometry(rect)
        top = rect.top()
        for row in self._rows(rect.width()):
            left, high = rect.left(), self._height(row)
            spare = rect.width() - sum(self._width(item) for item in row) - self.spacing() * (len(row) - 1)
            for item in row:
                wide = self._width(item) + (max(spare, 0) if item.widget() is self._stretched else 0)
                size = QSize(min(wide, rect.width()), item.sizeHint().height())
                item.setGeometry(QRect(QPoint(left, top + (high - size.height()) // 2), size))
                left += wide + self.spacing()
            top += high + self.spacing()

    # Rows

    def _shown(self) -> list[QLayoutItem]:
        return [item for item in self._items if not item.isEmpty()]

    def _width(self, item: QLayoutItem) -> int:
        return 0 if item.widget() is self._stretched else item.sizeHint().width()

    def _height(self, row: list[QLayoutItem]) -> int:
        return max((item.sizeHint().height() for item in row), default=0)

    def _rows(self, width: int) -> list[list[QLayoutItem]]:
        rows: list[list[QLayoutItem]] = [[]]
        left = 0
        for item in self._shown():
            wide = self._width(item)
            if rows[-1] and left + wide > width:
                rows.append([])
                left = 0
            rows[-1].append(item)
            left += wide + self.spacing()
        return rows
