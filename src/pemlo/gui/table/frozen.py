"""Keeps the first column in view while a table is scrolled sideways. GUI thread."""

from collections.abc import Callable

from PySide6.QtCore import QEvent, QModelIndex, QObject, Qt
from PySide6.QtWidgets import QAbstractItemView, QFrame, QHeaderView, QTableView


class FrozenColumn(QTableView):
    """The first column of a table once more, over the table; shown only where the table is scrolled sideways."""

    def __init__(self, table: QTableView, on_clicked: Callable[[QModelIndex], None]) -> None:
        super().__init__(table)
        self._table = table
        self.setObjectName("frozen")
        self.setModel(table.model())
        self.setSelectionModel(table.selectionModel())
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setShowGrid(False)
        self.setWordWrap(False)
        self.setSelectionBehavior(table.selectionBehavior())
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollMode(table.verticalScrollMode())
        self.verticalHeader().hide()
        self.verticalHeader().setDefaultSectionSize(table.verticalHeader().defaultSectionSize())
        self.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        self.horizontalHeader().setHighlightSections(False)
        self.setAccessibleName("")  # what it says stands in the table itself
        for section in range(1, table.model().columnCount()):
            self.setColumnHidden(section, True)
        table.horizontalScrollBar().valueChanged.connect(lambda _: self.place())
        table.horizontalHeader().sectionResized.connect(lambda *_: self.place())
        table.horizontalHeader().geometriesChanged.connect(self.place)
        table.verticalScrollBar().valueChanged.connect(self.verticalScrollBar().setValue)
        self.verticalScrollBar().valueChanged.connect(table.verticalScrollBar().setValue)
        table.viewport().installEventFilter(self)
        self.doubleClicked.connect(table.edit)
        self.clicked.connect(on_clicked)
        self.hide()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() in (QEvent.Type.Resize, QEvent.Type.Show):
            self.place()
        return super().eventFilter(watched, event)

    def place(self) -> None:
        """Lie over the first column of the table."""
        table = self._table
        scrolled = table.horizontalScrollBar().value() > 0 and not table.isColumnHidden(0)
        if scrolled:
            self.setColumnWidth(0, table.columnWidth(0))
            self.verticalHeader().setDefaultSectionSize(table.verticalHeader().defaultSectionSize())
            head = table.horizontalHeader().height()
            self.horizontalHeader().setFixedHeight(head)
            frame = table.frameWidth()
            self.setGeometry(frame, frame, table.columnWidth(0), head + table.viewport().height())
            self.verticalScrollBar().setValue(table.verticalScrollBar().value())
            self.raise_()
        self.setVisible(scrolled)
