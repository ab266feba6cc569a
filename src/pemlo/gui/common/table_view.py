"""The table that all stages use: edited in place, pasted into, wholly usable from the keyboard. GUI thread."""

from typing import Any

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, Qt, Signal
from PySide6.QtGui import QFontMetrics, QGuiApplication, QKeyEvent, QKeySequence, QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QHeaderView,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QWidget,
)

from pemlo.gui.common.colours import colours
from pemlo.gui.common.fonts import SMALL, font
from pemlo.gui.common.table_model import TableModel

ROW_PX = 26
PADDING_PX, WIDEST_PX = 16, 300
MOST_MEASURED = 80  # rows whose texts say how wide a column is
BEGUN, DONE = "begun", "done"


class TableView(QTableView):
    """A table of a `TableModel`.

    Signals
    -------
    pasted(str)
        Text from the clipboard.
    removal_asked(list of int)
        Rows that should go.
    picked(list of int)
        Rows that are selected now.
    """

    pasted = Signal(str)
    removal_asked = Signal(list)
    picked = Signal(list)

    def __init__(self, model: TableModel[Any], name: str) -> None:
        super().__init__()
        self._model = model
        self.empty_words = ""  # what to do while there are no rows
        self.setModel(model)
        self.setAccessibleName(name)
        self.setObjectName(name)
        self.setShowGrid(False)
        self.setWordWrap(False)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setEditTriggers(
            QAbstractItemView.EditTrigger.DoubleClicked
            | QAbstractItemView.EditTrigger.EditKeyPressed
            | QAbstractItemView.EditTrigger.AnyKeyPressed
        )
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setTabKeyNavigation(False)
        self.verticalHeader().hide()
        self.verticalHeader().setDefaultSectionSize(ROW_PX)
        header = self.horizontalHeader()
        header.setSectionResizeMode(QHeaderView.ResizeMode.Interactive)
        header.setHighlightSections(False)
        header.setStretchLastSection(True)
        for number, column in enumerate(model.columns):
            self.setColumnWidth(number, column.width)
        self.columns_by_hand = False  # widths that hands gave stay
        self._fitting = False
        header.sectionResized.connect(self._on_resized)
        for changed in (model.modelReset, model.dataChanged):
            changed.connect(self.fit_columns)
        self.setItemDelegate(_Delegate(self))
        self.selectionModel().selectionChanged.connect(lambda *_: self.picked.emit(self.selected_rows()))

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if self._model.rowCount() or not self.empty_words:
            return
        with QPainter(self.viewport()) as painter:
            painter.setPen(colours().second)
            room = self.viewport().rect().adjusted(6, 12, -6, -6)
            flags = Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap
            painter.drawText(room, int(flags), self.empty_words)

    def fit_columns(self) -> None:
        """Make columns as wide as what stands in them, unless hands gave them widths; wider ones are scrolled to."""
        rows = self._model.rows
        if self.columns_by_hand or not rows:
            return
        step = max(1, len(rows) // MOST_MEASURED)
        measured, titles = self.fontMetrics(), QFontMetrics(font(SMALL))
        self._fitting = True
        for number, column in enumerate(self._model.columns):
            longest = max((column.text(row) for row in rows[::step]), key=len)
            width = max(measured.horizontalAdvance(longest), titles.horizontalAdvance(column.title)) + PADDING_PX
            least = column.width if column.picture is not None else 0
            self.setColumnWidth(number, min(max(width, least), WIDEST_PX))
        self._fitting = False

    def _on_resized(self, section: int, before: int, after: int) -> None:  # noqa: ARG002 - Qt's signal
        # The last one is stretched by the table itself.
        self.columns_by_hand |= not self._fitting and self.isVisible() and section < self._model.columnCount() - 1

    def selected_rows(self) -> list[int]:
        return sorted({index.row() for index in self.selectionModel().selectedRows()})

    def pick(self, rows: list[int]) -> None:
        """Select rows without telling of it."""
        if rows == self.selected_rows():
            return
        blocked = self.blockSignals(True)
        self.clearSelection()
        mode = self.selectionMode()
        self.setSelectionMode(QAbstractItemView.SelectionMode.MultiSelection)
        for row in rows:
            self.selectRow(row)
        self.setSelectionMode(mode)
        self.blockSignals(blocked)
        if rows:
            self.scrollTo(self._model.index(rows[-1], 0))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.matches(QKeySequence.StandardKey.Paste):
            self.pasted.emit(QGuiApplication.clipboard().text())
        elif event.matches(QKeySequence.StandardKey.Copy):
            QGuiApplication.clipboard().setText(self.selected_text())
        elif event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and self.selected_rows():
            self.removal_asked.emit(self.selected_rows())
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.currentIndex().isValid():
            # The key also comes here from an open editor, which it closes.
            if self.state() != QAbstractItemView.State.EditingState:
                self.edit(self.currentIndex())
        elif event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier):
            event.ignore()
        else:
            super().keyPressEvent(event)

    def selected_text(self) -> str:
        """Return the selected rows as text with tabs, under their titles."""
        lines = ["\t".join(column.title for column in self._model.columns)]
        lines += ["\t".join(c.text(self._model.rows[row]) for c in self._model.columns) for row in self.selected_rows()]
        return "\n".join(lines)


class _Delegate(QStyledItemDelegate):
    """Offers a list where a column has choices, and starts an editor with its text selected."""

    def createEditor(
        self, parent: QWidget, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> QWidget:
        model = index.model()
        assert isinstance(model, TableModel)
        choices = model.columns[index.column()].choices
        if not choices:
            return super().createEditor(parent, option, index)
        box = QComboBox(parent)
        box.setEditable(True)
        box.addItems(list(choices))
        line = box.lineEdit()
        assert line is not None
        for finished in (box.activated, line.returnPressed):
            finished.connect(lambda *_: self._finish(box))
        return box

    def _finish(self, editor: QWidget) -> None:
        if editor.property(DONE):
            return  # Enter on a choice arrives twice
        editor.setProperty(DONE, True)
        self.commitData.emit(editor)
        self.closeEditor.emit(editor, QStyledItemDelegate.EndEditHint.NoHint)

    def setEditorData(self, editor: QWidget, index: QModelIndex | QPersistentModelIndex) -> None:
        if editor.property(BEGUN):
            return  # a forecast that comes in must not overwrite what is being typed
        editor.setProperty(BEGUN, True)
        if isinstance(editor, QComboBox):
            editor.setCurrentText(str(index.data(Qt.ItemDataRole.EditRole)))
        else:
            super().setEditorData(editor, index)

    def setModelData(self, editor: QWidget, model: TableModel[Any], index: QModelIndex | QPersistentModelIndex) -> None:  # type: ignore[override]
        if isinstance(editor, QComboBox):
            model.setData(index, editor.currentText())
        else:
            super().setModelData(editor, model, index)
