"""The table as people work in it: keys, mouse, clipboard, undo."""

import pytest
from PySide6.QtCore import QEvent, QMimeData, QPoint, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit

from film import make_project, make_shot
from pemlo.app.document import Document
from pemlo.app.preferences import Preferences
from pemlo.core.project.machines import Machine
from pemlo.gui.brief.panel import BriefPanel
from pemlo.gui.table.clipboard import MIME
from pemlo.gui.table.column_state import columns_of, set_columns
from pemlo.gui.table.lines import Group
from pemlo.gui.table.menus import rows_menu
from window import cell, index_of, type_in_cell

NAMES = [*(f"quay_{n:03}" for n in (10, 20, 30, 100)), *(f"lamp_{n:03}" for n in range(10, 70, 10))]
CTRL = Qt.KeyboardModifier.ControlModifier
SHIFT = Qt.KeyboardModifier.ShiftModifier


class Tables:
    def take_pasted(self, text, reader, put, columns):
        put(reader()(text, "what was pasted", {}))


@pytest.fixture
def brief(qtbot):
    heard = []
    project = make_project(shots=tuple(make_shot(name, 10 + n, samples=128) for n, name in enumerate(NAMES)))
    panel = BriefPanel(Document(project), heard.append, Tables())
    panel.document, panel.heard = panel._document, heard
    panel._document.changed.connect(lambda _: panel.show_project(panel._document.project, None))
    qtbot.addWidget(panel)
    panel.resize(1000, 700)
    panel.show_project(project, None)
    panel.show()
    return panel


def names(table):
    return [line.name if isinstance(line, Group) else line.shot.name for line in table.table.lines]


def samples(panel):
    return [shot.asked.samples for shot in panel.document.project.shots]


def pick(table, first, last, title="samples"):
    """Click a cell, and Shift-click another, as a person does."""
    for row, held in ((first, Qt.KeyboardModifier.NoModifier), (last, SHIFT)):
        index = index_of(table, row, title)
        table.scrollTo(index)
        QTest.mouseClick(table.viewport(), Qt.MouseButton.LeftButton, held, table.visualRect(index).center())


def type_over(table, text, key=Qt.Key.Key_Return):
    """Type with a cell picked: the first letter opens it."""
    QTest.keyClicks(table, text[:1])
    editor = table.viewport().findChild(QLineEdit)
    QTest.keyClicks(editor, text[1:])
    QTest.keyClick(editor, key)
    QApplication.processEvents()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


def press(table, key, held=CTRL):
    QTest.keyClick(table, key, held)


def test_a_value_typed_goes_to_all_picked_rows_in_one_step(brief):
    pick(brief.shots, 1, 3)
    type_over(brief.shots, "64")
    assert samples(brief) == [128, 64, 64, 64, *[128] * 6]
    assert brief.document.history.undo_text() == "Change samples of 3 shots"
    brief.document.history.undo()
    assert samples(brief) == [128] * 10
    assert brief.shots.selected_lines() == [1, 2, 3]  # they stay picked


def test_a_name_goes_to_one_row_alone(brief):
    pick(brief.shots, 0, 2, "shot")
    type_over(brief.shots, "pier_010")
    assert [shot.name for shot in brief.document.project.shots[:3]] == ["quay_010", "quay_020", "pier_010"]


def test_a_refused_value_keeps_its_text_with_the_reason_below(brief):
    table = brief.shots
    pick(table, 0, 1)
    type_over(table, "12x")
    editor = table.viewport().findChild(QLineEdit)
    assert editor.text() == "12x"
    reason = table.itemDelegate()._reason
    assert reason.isVisible()
    assert "12x" in reason.text()
    assert reason.geometry().top() >= editor.geometry().bottom()
    index = index_of(table, 5, "denoise")
    QTest.mouseClick(table.viewport(), Qt.MouseButton.LeftButton, pos=table.visualRect(index).center())
    assert table.viewport().findChild(QLineEdit).text() == "12x"  # a click elsewhere does not lose it
    QTest.keyClicks(editor, "\b")
    assert not reason.isVisible()
    QTest.keyClick(editor, Qt.Key.Key_Return)
    QApplication.processEvents()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    assert samples(brief)[:3] == [12, 12, 128]  # the rows that were picked when it was opened
    assert not brief.heard


def test_escape_leaves_a_refused_cell_as_it_was(brief):
    pick(brief.shots, 0, 0)
    type_over(brief.shots, "many")
    QTest.keyClick(brief.shots.viewport().findChild(QLineEdit), Qt.Key.Key_Escape)
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    assert brief.shots.viewport().findChild(QLineEdit) is None
    assert not brief.document.history.can_undo()


def test_a_cell_opens_as_wide_as_its_text(brief):
    table = brief.machines
    brief.machines.setColumnWidth(6, 50)
    index = index_of(table, 0, "hours")
    table.setCurrentIndex(index)
    table.edit(index)
    editor = table.viewport().findChild(QLineEdit).parent()
    editor.lineEdit().clear()
    QTest.keyClicks(editor.lineEdit(), "Mon-Thu 19:00-08:00, Fri 20:00-24:00")
    room = editor.fontMetrics().horizontalAdvance(editor.currentText())
    assert editor.width() > room


def test_fill_down(brief):
    type_in_cell(None, brief.shots, 2, "samples", "999")
    pick(brief.shots, 2, 5)
    press(brief.shots, Qt.Key.Key_D)
    assert samples(brief)[2:6] == [999] * 4
    assert samples(brief)[:2] == [128] * 2


def test_all_is_copied_and_pasted_into_another_film_exactly(brief, qtbot):
    shots = brief.document.project.shots
    changed = [
        shots[0].replace(note='wide; "water"\tand\nmore', weight=2.5, pins=("samples",)),
        shots[1].replace(asked=shots[1].asked.replace(noise_threshold=0.02, min_samples=16, switches=("blur",))),
        shots[2].replace(plan=shots[2].asked.replace(samples=17), note="=1+1"),
    ]
    brief.document.edit("x", lambda p: p.replace(shots=(*changed, *shots[3:])))
    brief.shots.setFocus()
    press(brief.shots, Qt.Key.Key_A)
    press(brief.shots, Qt.Key.Key_C)
    other = BriefPanel(Document(make_project(shots=())), brief.heard.append, Tables())
    qtbot.addWidget(other)
    other.show_project(other._document.project, None)
    press(other.shots, Qt.Key.Key_V)
    assert other._document.project.shots == brief.document.project.shots
    lines = QGuiApplication.clipboard().text().split("\n")
    assert lines[0].split("\t")[:2] == ["shot", "frames"]
    assert "'=1+1" in QGuiApplication.clipboard().text()  # a table program runs nothing of it


def test_text_that_was_copied_comes_back_as_it_was(brief):
    before = brief.document.project.shots
    press(brief.shots, Qt.Key.Key_A)
    press(brief.shots, Qt.Key.Key_C)
    text = QGuiApplication.clipboard().text()
    QGuiApplication.clipboard().setText(text)  # as it comes from a table program
    press(brief.shots, Qt.Key.Key_V)
    assert brief.document.project.shots == before


@pytest.mark.parametrize(
    "lies", [b"{", b"[]", b'{"kind":"Shot"}', b'{"kind":"Shot","rows":[7]}', b'{"kind":"Shot","rows":[{"name":"x"}]}',
             b"[" * 100_000, b'{"kind":"Shot","rows":[{"name":"../x","first":1,"last":2,"asked":{"samples":1}}]}'],
)  # fmt: skip
def test_what_lies_on_the_clipboard_may_be_anything(brief, lies):
    before = brief.document.project
    data = QMimeData()
    data.setData(MIME, lies)
    QGuiApplication.clipboard().setMimeData(data)
    press(brief.shots, Qt.Key.Key_V)
    assert brief.document.project == before
    assert len(brief.heard) == 1


def test_cut_and_paste_moves_shots(brief):
    pick(brief.shots, 0, 1)
    press(brief.shots, Qt.Key.Key_X)
    assert [shot.name for shot in brief.document.project.shots][:2] == ["quay_030", "quay_100"]
    pick(brief.shots, 1, 1)
    press(brief.shots, Qt.Key.Key_V)
    assert [shot.name for shot in brief.document.project.shots][:4] == ["quay_030", "quay_100", "quay_010", "quay_020"]


def test_one_copied_value_goes_to_all_picked_cells_and_a_column_goes_down(brief):
    QGuiApplication.clipboard().setText("333")
    pick(brief.shots, 0, 2)
    press(brief.shots, Qt.Key.Key_V)
    assert samples(brief)[:4] == [333, 333, 333, 128]
    QGuiApplication.clipboard().setText("1\n2\n3\n")
    pick(brief.shots, 4, 4)
    press(brief.shots, Qt.Key.Key_V)
    assert samples(brief)[3:8] == [128, 1, 2, 3, 128]
    pick(brief.shots, 9, 9)
    press(brief.shots, Qt.Key.Key_V)
    assert "do not fit" in str(brief.heard[-1])
    assert samples(brief)[9] == 128


def test_duplicates_get_names_that_go_on(brief):
    pick(brief.shots, 0, 1)
    press(brief.shots, Qt.Key.Key_D, CTRL | SHIFT)
    assert [shot.name for shot in brief.document.project.shots][:5] == [
        *("quay_010", "quay_020", "quay_110", "quay_120", "quay_030"),
    ]
    brief.document.history.undo()
    assert len(brief.document.project.shots) == 10


def test_a_click_on_a_title_sorts_and_rows_keep_their_names(brief):
    table, header = brief.shots, brief.shots.horizontalHeader()
    pick(table, 0, 0)

    def click():
        place = QPoint(header.sectionViewportPosition(1) + 10, header.height() // 2)
        QTest.mouseClick(header.viewport(), Qt.MouseButton.LeftButton, pos=place)

    click()
    assert names(table)[0] == "quay_010"
    click()
    assert names(table)[0] == "lamp_060"  # it has the most frames
    assert "▾" in str(table.table.headerData(1, Qt.Orientation.Horizontal))
    assert [row.shot.name for row in table.selected()] == ["quay_010"]
    type_in_cell(None, table, 0, "samples", "5")
    assert brief.document.project.shot("lamp_060").asked.samples == 5
    click()
    assert names(table) == NAMES


def test_a_row_stays_where_it_is_while_its_cell_is_open(brief):
    table = brief.shots
    table.arranging.arrange(sort="samples")
    index = index_of(table, 0, "samples")
    table.setCurrentIndex(index)
    table.edit(index)
    moved = brief.document.project.shots
    brief.document.edit(
        "x", lambda p: p.replace(shots=(moved[0].replace(asked=moved[0].asked.replace(samples=9999)), *moved[1:]))
    )
    assert names(table)[0] == "quay_010"
    QTest.keyClick(table.viewport().findChild(QLineEdit), Qt.Key.Key_Escape)
    assert names(table)[-1] == "quay_010"


def test_filter_as_one_types_and_find_the_next(brief, qtbot):
    field = brief.filter
    assert field.isVisible()  # ten rows are more than few
    field.begin()
    QTest.keyClicks(field, "lamp frames")
    assert names(brief.shots) == []
    field.clear()
    QTest.keyClicks(field, "quay")
    assert names(brief.shots) == NAMES[:4]
    assert brief.totals.text().startswith("4 of 10 shots shown")
    # The film's hours at the top count retakes, so that these say they do not.
    assert brief.totals.text().endswith(" before retakes")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert brief.shots.selected_lines() == [0]
    QTest.keyClick(brief.shots, Qt.Key.Key_Escape)
    assert names(brief.shots) == NAMES
    QTest.keyClick(brief.shots, Qt.Key.Key_F3)
    assert [row.shot.name for row in brief.shots.selected()] == ["quay_020"]
    QTest.keyClick(brief.shots, Qt.Key.Key_F3, SHIFT)
    assert [row.shot.name for row in brief.shots.selected()] == ["quay_010"]


def test_what_is_picked_in_a_filtered_table_is_changed_and_nothing_else(brief):
    brief.filter.setText("lamp")
    press(brief.shots, Qt.Key.Key_A)
    brief.shots.setCurrentIndex(index_of(brief.shots, 0, "samples"))
    press(brief.shots, Qt.Key.Key_A)
    type_over(brief.shots, "77")
    assert samples(brief) == [128] * 4 + [77] * 6


def test_groups_fold_say_their_totals_and_are_edited_as_one(brief):
    table = brief.shots
    brief.groups.setCurrentIndex(brief.groups.findText("By sequence"))
    brief.groups.activated.emit(brief.groups.currentIndex())
    assert names(table)[0] == "quay"
    assert cell(table, 0, "frames") == str(10 + 11 + 12 + 13)
    assert cell(table, 0, "samples") == "128"
    table.setCurrentIndex(index_of(table, 0, "shot"))
    QTest.keyClick(table, Qt.Key.Key_Left)
    assert names(table) == ["quay", "lamp", *NAMES[4:]]
    type_in_cell(None, table, 0, "samples", "31")
    assert samples(brief) == [31] * 4 + [128] * 6
    assert cell(table, 0, "samples") == "31"
    rect = table.visualRect(index_of(table, 0, "shot"))
    QTest.mouseClick(table.viewport(), Qt.MouseButton.LeftButton, pos=QPoint(rect.left() + 8, rect.center().y()))
    assert names(table)[:2] == ["quay", "quay_010"]


def test_the_sum_of_what_is_picked_is_that_of_its_frames(brief):
    pick(brief.shots, 0, 1)
    assert brief.totals.text().startswith("2 of 10 shots picked · frames 21")
    assert "typing sets samples of all" in brief.totals.text()


def test_columns_move_hide_and_stay_so(brief, qtbot):
    table, preferences = brief.shots, Preferences()
    header = table.horizontalHeader()
    number = [column.title for column in table.table.columns].index("denoise")
    header.moveSection(header.visualIndex(number), 1)
    table.arranging.show_column(3, shown=False)
    table.columns_by_hand = True
    table.setColumnWidth(1, 177)
    preferences.windows.keep_columns("Shots", columns_of(table))
    again = BriefPanel(brief.document, brief.heard.append, Tables())
    qtbot.addWidget(again)
    set_columns(again.shots, Preferences().windows.columns("Shots"))
    assert again.shots.horizontalHeader().visualIndex(number) == 1
    assert again.shots.isColumnHidden(3)
    assert again.shots.columnWidth(1) == 177
    again.shots.arranging.reset_columns()
    assert again.shots.horizontalHeader().visualIndex(number) == number
    assert not again.shots.isColumnHidden(3)


@pytest.mark.parametrize("state", [{"order": 7, "hidden": {"a": 1}, "widths": []}, {"order": ["x"], "hidden": ["shot"],
                                   "widths": {"frames": "wide", "size": 10**9}}, {}])  # fmt: skip
def test_remembered_columns_may_be_anything(brief, state):
    set_columns(brief.shots, state)
    assert not brief.shots.isColumnHidden(0)
    assert max(brief.shots.columnWidth(n) for n in range(5)) <= 2000


def test_the_first_column_stays_when_scrolled_sideways(brief):
    table = brief.shots
    assert table.frozen is None
    table.horizontalScrollBar().setValue(200)
    assert table.frozen.isVisible()
    assert table.frozen.width() == table.columnWidth(0)
    assert table.frozen.indexAt(QPoint(5, 10)).data() == "quay_010"
    table.horizontalScrollBar().setValue(0)
    assert not table.frozen.isVisible()


def test_the_menu_says_what_can_be_done_now(brief):
    brief.shots.clearSelection()
    texts = {entry.text().split("\t")[0]: entry.isEnabled() for entry in rows_menu(brief.shots).actions()}
    assert not texts["Copy"]
    assert not texts["Delete"]
    pick(brief.shots, 0, 1)
    texts = {entry.text().split("\t")[0]: entry.isEnabled() for entry in rows_menu(brief.shots).actions()}
    assert texts["Fill down"]
    assert texts["Duplicate"]
    assert not texts["Part into layers…"]  # that is of one shot


def test_machines_are_duplicated_and_noted(brief):
    brief.document.edit("x", lambda p: p.replace(machines=(Machine(name="desk", speed=2.0), Machine(name="tower"))))
    pick(brief.machines, 0, 0, "speed")
    press(brief.machines, Qt.Key.Key_D, CTRL | SHIFT)
    machines = brief.document.project.machines
    assert [(machine.name, machine.speed) for machine in machines] == [("desk", 2.0), ("tower", 1.0), ("desk 2", 2.0)]
    type_in_cell(None, brief.machines, 1, "note", "loud; only at night")
    assert brief.document.project.machines[1].note == "loud; only at night"


@pytest.mark.parametrize(("title", "text"), [("frames", "1-20x2"), ("way", "depth 20"), ("due", "Wed 12:00")])
def test_whatever_column_is_typed_into_every_picked_shot_takes_it(brief, title, text):
    pick(brief.shots, 0, 3, title)
    type_over(brief.shots, text)
    assert brief.heard == []
    rows = [
        dict(zip(("frames", "way", "due"), (s.parts, s.asked.way, s.due), strict=True))
        for s in brief.document.project.shots
    ]
    taken = {repr(row[title]) for row in rows[:4]}
    assert len(taken) == 1
    assert taken != {repr(rows[4][title])}
    assert brief.document.history.undo_text() == f"Change {title} of 4 shots"


def test_groups_fold_where_the_first_column_was_scrolled_away(brief):
    table = brief.shots
    table.arranging.group_by("sequence")
    table.horizontalScrollBar().setValue(200)
    where = table.frozen.visualRect(table.model().index(0, 0)).center()
    QTest.mouseClick(table.frozen.viewport(), Qt.MouseButton.LeftButton, pos=where)
    assert names(table)[:2] == ["quay", "lamp"]
