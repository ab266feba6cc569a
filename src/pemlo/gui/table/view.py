"""The table that all stages use: worked in as in a table program, wholly usable from the keyboard. GUI thread."""

from collections.abc import Callable, Hashable, Sequence
from typing import Any

from PySide6.QtCore import (
    QEvent,
    QItemSelection,
    QItemSelectionModel,
    QModelIndex,
    QPersistentModelIndex,
    QPoint,
    Qt,
    Signal,
)
from PySide6.QtGui import QContextMenuEvent, QFontMetrics, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QAbstractItemDelegate, QAbstractItemView, QHeaderView, QMenu, QTableView, QWidget

from pemlo.gui.common.colours import colours
from pemlo.gui.common.density import row_px
from pemlo.gui.common.fonts import SMALL, font
from pemlo.gui.table.acts import Acts
from pemlo.gui.table.arranging import Arranging
from pemlo.gui.table.editor import DONE, REFUSED, CellEditor
from pemlo.gui.table.frozen import FrozenColumn
from pemlo.gui.table.lines import Group
from pemlo.gui.table.menus import column_menu, rows_menu
from pemlo.gui.table.model import TableModel

PADDING_PX, WIDEST_PX = 16, 300
FOLD_PX = 22  # at the left of a group's line, that fold it
MOST_MEASURED = 80  # rows whose texts say how wide a column is
Index = QModelIndex | QPersistentModelIndex


class TableView(QTableView):
    """A table of a `TableModel`.

    Signals
    -------
    pasted(str)
        A table from the clipboard.
    removal_asked(list of rows)
        Rows that should go.
    duplicates_asked(list of rows)
        Rows that should be there once more.
    picked(list of rows)
        Rows that are selected now.
    """

    pasted = Signal(str)
    removal_asked = Signal(list)
    duplicates_asked = Signal(list)
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
        self.verticalHeader().setMinimumSectionSize(1)
        self.verticalHeader().setDefaultSectionSize(row_px())
        self.arranging, self.acts = Arranging(self), Acts(self)
        self._set_up_header()
        self.columns_by_hand = False  # widths that hands gave stay
        self._fitting = False
        self.setItemDelegate(CellEditor(self, self.rows_meant))
        self.frozen: FrozenColumn | None = None  # made when the table is first scrolled sideways
        self.horizontalScrollBar().valueChanged.connect(self._keep_first_column)
        for changed in (model.modelReset, model.dataChanged):
            changed.connect(self.fit_columns)
        self._picked_before: tuple[set[Hashable], Hashable, int] = (set(), None, 0)
        model.modelAboutToBeReset.connect(self._remember_picked)
        model.modelReset.connect(self._pick_again)
        self.selectionModel().selectionChanged.connect(lambda *_: self.picked.emit(self.selected()))

    def _set_up_header(self) -> None:
        header = self.horizontalHeader()
        header.setSectionResizeMode(QHeaderView.ResizeMode.Interactive)
        header.setHighlightSections(False)
        header.setStretchLastSection(True)
        header.setSectionsMovable(True)
        header.setFirstSectionMovable(False)
        header.setSectionsClickable(True)
        header.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        for number, column in enumerate(self._model.columns):
            self.setColumnWidth(number, column.width)
        header.sectionResized.connect(self._on_resized)
        header.sectionClicked.connect(self.arranging.sort_by)
        header.customContextMenuRequested.connect(lambda place: _show_column_menu(self, place))

    def _keep_first_column(self, scrolled: int) -> None:
        if self.frozen is None and scrolled > 0:
            self.frozen = FrozenColumn(self, self.arranging.fold_at)
            self.frozen.place()

    @property
    def table(self) -> TableModel[Any]:
        """What it shows."""
        return self._model

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        words = self.empty_words
        if self._model.rows and not self._model.rowCount():
            words = f"None of {len(self._model.rows)} matches “{self._model.arrangement.filter}”. Esc shows all again."
        if self._model.rowCount() or not words:
            return
        with QPainter(self.viewport()) as painter:
            painter.setPen(colours().second)
            room = self.viewport().rect().adjusted(6, 12, -6, -6)
            flags = Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap
            painter.drawText(room, int(flags), words)

    def fit_columns(self) -> None:
        """Make columns as wide as what stands in them, unless hands gave them widths; wider ones are scrolled to."""
        rows = self._model.rows
        if self.columns_by_hand or not rows:
            return
        step = max(1, len(rows) // MOST_MEASURED)
        measured, titles = self.fontMetrics(), QFontMetrics(font(SMALL))
        groups = [line for line in self._model.lines if isinstance(line, Group)]
        self._fitting = True
        for number, column in enumerate(self._model.columns):
            texts = [column.text(row) for row in rows[::step]]
            texts += [str(self._model.index(0, number).data())] if groups else []
            if number == 0:
                texts += [f"▾ {group.name} ({len(group.rows)})  " for group in groups]
            longest = max(texts, key=len)
            title = titles.horizontalAdvance(str(self._model.headerData(number, Qt.Orientation.Horizontal)))
            width = max(measured.horizontalAdvance(longest), title) + PADDING_PX
            least = column.width if column.picture is not None else 0
            self.setColumnWidth(number, min(max(width, least), WIDEST_PX))
        self._fitting = False

    def _on_resized(self, section: int, before: int, after: int) -> None:  # noqa: ARG002 - Qt's signal
        # The last one is stretched by the table itself.
        self.columns_by_hand |= not self._fitting and self.isVisible() and section < self._model.columnCount() - 1

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.StyleChange:
            self.verticalHeader().setDefaultSectionSize(row_px())

    # What is picked

    def selected_lines(self) -> list[int]:
        return sorted({index.row() for index in self.selectionModel().selectedRows()})

    def selected(self) -> list[Any]:
        """Return the rows that are selected, all those of a selected group among them, in the order shown."""
        rows: dict[Hashable, Any] = {}
        for line in self.selected_lines():
            rows |= {self._model.key(row): row for row in self._model.rows_at(line)}
        return list(rows.values())

    def rows_meant(self, index: Index) -> Sequence[Any]:
        """Return the rows that a value typed into a cell is for: all that are picked, if it is in one of them."""
        here = self._model.rows_at(index.row())
        if self._model.columns[index.column()].single or index.row() not in self.selected_lines():
            return here
        return self.selected() or here

    def pick(self, is_picked: Callable[[Any], bool]) -> None:
        """Select the rows of which that is true, without telling of it."""
        lines = [
            number for number, line in enumerate(self._model.lines) if not isinstance(line, Group) and is_picked(line)
        ]
        if not lines and any(is_picked(row) for line in self.selected_lines() for row in self._model.rows_at(line)):
            return  # the line of their folded group is selected
        if lines == self.selected_lines():
            return
        blocked = self.blockSignals(True)
        self._select(lines)
        self.blockSignals(blocked)
        if lines:
            self.scrollTo(self._model.index(lines[-1], 0))

    def _select(self, lines: Sequence[int]) -> None:
        last = self._model.columnCount() - 1
        selection = QItemSelection()
        for line in lines:
            selection.select(self._model.index(line, 0), self._model.index(line, last))
        self.selectionModel().select(selection, QItemSelectionModel.SelectionFlag.ClearAndSelect)

    def _remember_picked(self) -> None:
        current = self.currentIndex()
        rows = self._model.rows_at(current.row()) if current.isValid() else ()
        keys = {self._model.key(row) for row in self.selected()}
        self._picked_before = keys, self._model.key(rows[0]) if rows else None, current.column()

    def _pick_again(self) -> None:
        """Select after the table was arranged anew what was selected before."""
        keys, current, column = self._picked_before
        places = {
            self._model.key(line): number
            for number, line in enumerate(self._model.lines)
            if not isinstance(line, Group)
        }
        blocked = self.blockSignals(True)
        if current in places:
            index = self._model.index(places[current], max(column, 0))
            self.selectionModel().setCurrentIndex(index, QItemSelectionModel.SelectionFlag.NoUpdate)
        self._select(sorted(places[key] for key in keys if key in places))
        self.blockSignals(blocked)

    # Hands

    def closeEditor(self, editor: QWidget, hint: QAbstractItemDelegate.EndEditHint) -> None:
        if editor.property(REFUSED) and hint != QAbstractItemDelegate.EndEditHint.RevertModelCache:
            editor.setFocus()  # what was typed is not lost
            return
        if editor.property(DONE):
            return
        editor.setProperty(DONE, True)
        super().closeEditor(editor, hint)
        self._model.release()

    def commitData(self, editor: QWidget) -> None:
        if not editor.property(DONE):  # Enter in a list of choices arrives twice
            super().commitData(editor)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, sideways = event.key(), {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        if self.acts.on_key(event):
            return
        if key in sideways and not event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier:
            self.arranging.go_sideways(sideways[Qt.Key(key)])
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and self.selected():
            self.removal_asked.emit(self.selected())
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.currentIndex().isValid():
            # The key also comes here from an open editor, which it closes.
            if self.state() != QAbstractItemView.State.EditingState:
                self.edit(self.currentIndex())
        elif event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier):
            event.ignore()
        else:
            super().keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        index = self.indexAt(event.position().toPoint())
        line = self._model.lines[index.row()] if index.isValid() else None
        if isinstance(line, Group) and index.column() == 0:
            left = self.visualRect(index).left()
            if event.position().x() < left + FOLD_PX:
                self.arranging.fold(line)
                return
        super().mousePressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        _show(rows_menu(self), event.globalPos())


def _show_column_menu(view: TableView, place: QPoint) -> None:
    header = view.horizontalHeader()
    _show(column_menu(view, header.logicalIndexAt(place)), header.mapToGlobal(place))


def _show(menu: QMenu, where: QPoint) -> None:
    menu.exec(where)
    menu.deleteLater()
