"""How the columns of a table stand: their order, their widths, which are hidden. By their titles. GUI thread."""

from typing import Any

from pemlo.gui.table.view import TableView

NARROWEST_PX, WIDEST_PX = 16, 2000


def columns_of(view: TableView) -> dict[str, Any]:
    """Return what is remembered of a table's columns."""
    header, columns = view.horizontalHeader(), view.table.columns
    order = sorted(range(len(columns)), key=header.visualIndex)
    shown: dict[str, Any] = {
        "order": [columns[number].title for number in order],
        "hidden": [column.title for number, column in enumerate(columns) if view.isColumnHidden(number)],
    }
    if view.columns_by_hand:
        shown["widths"] = {
            column.title: view.columnWidth(number)
            for number, column in enumerate(columns)
            if not view.isColumnHidden(number)
        }
    return shown


def set_columns(view: TableView, state: dict[str, Any]) -> None:
    """Bring columns back to where they stood; columns that are new stand where the program puts them."""
    header, columns = view.horizontalHeader(), view.table.columns
    places = {column.title: number for number, column in enumerate(columns)}
    order, hidden, widths = (state.get(name) for name in ("order", "hidden", "widths"))
    known = [places[title] for title in order if title in places] if isinstance(order, list) else []
    if len(known) == len(columns):
        for place, number in enumerate(known[1:] if known[0] == 0 else (), 1):
            header.moveSection(header.visualIndex(number), place)
    for title in hidden if isinstance(hidden, list) else ():
        if places.get(title, 0):
            view.setColumnHidden(places[title], True)
    if isinstance(widths, dict):
        view.columns_by_hand = True
        for title, width in widths.items():
            if title in places and isinstance(width, int):
                view.setColumnWidth(places[title], max(NARROWEST_PX, min(width, WIDEST_PX)))
