"""Opens a cell: as wide as its text, with a list where there are choices; a refused text stays, with the reason below.

GUI thread.
"""

from collections.abc import Callable, Hashable, Sequence
from typing import Any

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QLabel,
    QLineEdit,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QWidget,
)

from pemlo.core.errors import InputError
from pemlo.gui.common.labels import label
from pemlo.gui.table.model import TableModel

BEGUN, DONE, REFUSED = "begun", "done", "refused"
SPARE_PX = 28  # beside the text, for the frame and the next letters
REASON_PX = 300
Index = QModelIndex | QPersistentModelIndex


class CellEditor(QStyledItemDelegate):
    """The delegate of a table: a value typed into one picked row goes to all picked rows."""

    def __init__(self, view: QAbstractItemView, rows_meant: Callable[[Index], Sequence[Any]]) -> None:
        super().__init__(view)
        self._view, self._rows_meant = view, rows_meant
        self._reason: QLabel | None = None
        self._meant: frozenset[Hashable] = frozenset()  # the rows that were picked when the cell was opened

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        background = index.data(Qt.ItemDataRole.BackgroundRole)
        if background is not None:  # the sheet of styles leaves it out
            painter.fillRect(option.rect, background)
        super().paint(painter, option, index)

    def createEditor(self, parent: QWidget, option: QStyleOptionViewItem, index: Index) -> QWidget:  # noqa: ARG002 - Qt's
        model = index.model()
        assert isinstance(model, TableModel)
        model.held = True
        self._meant = frozenset(model.key(row) for row in self._rows_meant(index))
        choices = model.columns[index.column()].choices
        if not choices:
            line = QLineEdit(parent)
            line.textEdited.connect(lambda _: self._on_typed(line))
            return line
        box = QComboBox(parent)
        box.setEditable(True)
        box.addItems(list(choices))
        line = self._line(box)
        line.textEdited.connect(lambda _: self._on_typed(box))
        for finished in (box.activated, line.returnPressed):
            finished.connect(lambda *_: self._finish(box))
        return box

    def _line(self, editor: QWidget) -> QLineEdit:
        line = editor.lineEdit() if isinstance(editor, QComboBox) else editor
        assert isinstance(line, QLineEdit)
        return line

    def destroyEditor(self, editor: QWidget, index: Index) -> None:
        self._hide_reason()
        super().destroyEditor(editor, index)

    def _finish(self, editor: QWidget) -> None:
        self.commitData.emit(editor)
        self.closeEditor.emit(editor, QStyledItemDelegate.EndEditHint.NoHint)

    def setEditorData(self, editor: QWidget, index: Index) -> None:
        if editor.property(BEGUN):
            return  # a forecast that comes in must not overwrite what is being typed
        editor.setProperty(BEGUN, True)
        line = self._line(editor)
        line.setText(str(index.data(Qt.ItemDataRole.EditRole)))
        line.selectAll()

    def setModelData(self, editor: QWidget, model: TableModel[Any], index: Index) -> None:  # type: ignore[override]
        rows = [row for row in model.rows if model.key(row) in self._meant]
        try:
            model.change(index.column(), rows, self._line(editor).text())
        except InputError as error:
            self._refuse(editor, error)
        else:
            editor.setProperty(REFUSED, "")
            self._hide_reason()

    def updateEditorGeometry(self, editor: QWidget, option: QStyleOptionViewItem, index: Index) -> None:  # noqa: ARG002
        editor.setGeometry(option.rect)
        self._widen(editor)

    def _on_typed(self, editor: QWidget) -> None:
        editor.setProperty(REFUSED, "")
        self._hide_reason()
        self._widen(editor)

    def _widen(self, editor: QWidget) -> None:
        """Make room for the whole text, inside the table."""
        line, place = self._line(editor), editor.geometry()
        wanted = line.fontMetrics().horizontalAdvance(line.text()) + SPARE_PX
        if isinstance(editor, QComboBox):
            longest = max((editor.itemText(n) for n in range(editor.count())), key=len, default="")
            wanted = max(wanted, line.fontMetrics().horizontalAdvance(longest) + 2 * SPARE_PX)
        table = self._view.viewport().width()
        width = max(place.width(), min(wanted, table))
        editor.setGeometry(max(0, min(place.left(), table - width)), place.top(), width, place.height())

    def _refuse(self, editor: QWidget, error: InputError) -> None:
        """Say below the cell why its text was not taken; the text stays."""
        words = " ".join(problem.what for problem in error.problems)
        words = f"{words[:1].upper()}{words[1:]}{'' if words.endswith('.') else '.'} {error.hint}".strip()
        editor.setProperty(REFUSED, words)
        if self._reason is None:
            self._reason = label("", small=True, wrap=True)
            self._reason.setObjectName("reason")
            self._reason.setParent(self._view.viewport())
        reason, place = self._reason, editor.geometry()
        reason.setText(f"{words} Esc leaves the cell as it was.")
        editor.setAccessibleDescription(words)
        reason.setFixedWidth(min(REASON_PX, self._view.viewport().width()))
        reason.adjustSize()
        room = self._view.viewport().rect()
        left = max(0, min(place.left(), room.width() - reason.width()))
        above = place.bottom() + reason.height() > room.height() and place.top() > reason.height()
        reason.move(left, place.top() - reason.height() if above else place.bottom() + 1)
        reason.raise_()
        reason.show()

    def _hide_reason(self) -> None:
        if self._reason is not None:
            self._reason.hide()
