"""Tab goes as one reads: as layouts have widgets, not as they were made."""

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QScrollArea, QVBoxLayout, QWidget

from pemlo.gui.common.reading_order import reading_order, set_reading_order


def test_tab_goes_down_one_column_and_then_the_next(qtbot):
    last, first, second, third = (QLineEdit() for _ in range(4))  # made in another order than they stand
    panel, left, right, area = QWidget(), QWidget(), QWidget(), QScrollArea()
    for side, fields in ((left, (first, second)), (right, (third, last))):
        column = QVBoxLayout(side)
        column.addWidget(QLabel("which takes no keys"))
        for field in fields:
            column.addWidget(field)
    area.setWidget(right)
    area.setWidgetResizable(True)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    row = QHBoxLayout(panel)
    row.addWidget(left)
    row.addWidget(area)
    qtbot.addWidget(panel)
    set_reading_order(panel)
    assert reading_order(panel) == [first, second, third, last]
    panel.show()
    panel.activateWindow()
    first.setFocus()
    for field in (second, third, last):
        QTest.keyClick(panel.focusWidget(), Qt.Key.Key_Tab)
        assert panel.focusWidget() is field
