"""The menus of a table: of its rows, and of the titles of its columns. GUI thread."""

from typing import TYPE_CHECKING

from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMenu

from pemlo.gui.common.plain import as_entry
from pemlo.gui.table.acts import Act
from pemlo.gui.table.lines import SEQUENCE, groupings

if TYPE_CHECKING:
    from pemlo.gui.table.view import TableView


def rows_menu(view: "TableView") -> QMenu:
    """Return the menu of a table's rows, as it is now."""
    menu = QMenu(view)
    for act in view.acts.acts:
        _add(menu, view, act)
    if view.acts.more:
        menu.addSeparator()
    for act in view.acts.more:
        _add(menu, view, act)
    menu.addSeparator()
    _add_grouping(menu, view)
    return menu


def _add(menu: QMenu, view: "TableView", act: Act) -> None:
    entry = QAction(f"{as_entry(act.text)}\t{QKeySequence(act.keys).toString()}" if act.keys else act.text, menu)
    entry.setEnabled(act.can())
    entry.triggered.connect(lambda _=False: view.acts.guarded(act.run))
    menu.addAction(entry)


def _add_grouping(menu: QMenu, view: "TableView") -> None:
    table = view.table
    under = menu.addMenu("Group by")
    for title in ("", *groupings(table.rows, table.columns)):
        words = {"": "Nothing", SEQUENCE: "Sequence"}.get(title, title)
        entry = under.addAction(as_entry(words))
        entry.setCheckable(True)
        entry.setChecked(table.arrangement.group == title)
        entry.triggered.connect(lambda _=False, title=title: view.arranging.group_by(title))
    if table.arrangement.group:
        menu.addAction("Fold or unfold all groups").triggered.connect(lambda _=False: view.arranging.fold_all())


def column_menu(view: "TableView", section: int) -> QMenu:
    """Return the menu of a column's title; `section` is below 0 where there is none."""
    columns, arranging = view.table.columns, view.arranging
    menu = QMenu(view)
    title = columns[section].title if section >= 0 else ""
    if title:
        for words, down in (("Sort upwards", False), ("Sort downwards", True)):
            menu.addAction(words).triggered.connect(
                lambda _=False, down=down: arranging.arrange(sort=title, descending=down)
            )
    unsorted = menu.addAction("In the order of the film")
    unsorted.triggered.connect(lambda _=False: arranging.arrange(sort="", descending=False))
    menu.addSeparator()
    if title and section > 0:
        hide = menu.addAction(f"Hide “{as_entry(title)}”")
        hide.triggered.connect(lambda _=False: arranging.show_column(section, shown=False))
    under = menu.addMenu("Columns")
    for number, column in enumerate(columns):
        if number and column.title:
            entry = under.addAction(as_entry(column.title))
            entry.setCheckable(True)
            entry.setChecked(not view.isColumnHidden(number))
            entry.toggled.connect(lambda on, number=number: arranging.show_column(number, shown=on))
    menu.addAction("Columns as they were").triggered.connect(lambda _=False: arranging.reset_columns())
    _add_grouping(menu, view)
    return menu
