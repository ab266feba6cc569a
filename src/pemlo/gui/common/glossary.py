"""The glossary: every term with a picture and a sentence. GUI thread."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QGridLayout, QScrollArea, QVBoxLayout, QWidget

from pemlo.gui.common.labels import label
from pemlo.gui.common.terms import TERMS

WIDE, HIGH = 660, 620  # px; what does not fit is scrolled


class Glossary(QDialog):
    """All terms, a picture and a sentence each.

    Parameters
    ----------
    owner : QWidget
    term : str
        Which one is shown first; empty for the top.
    """

    def __init__(self, owner: QWidget, term: str = "") -> None:
        from pemlo.gui.common.term_pictures import term_picture  # noqa: PLC0415 - only where it is looked at

        super().__init__(owner)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("Terms")
        inside = QWidget()
        grid = QGridLayout(inside)
        grid.setContentsMargins(20, 14, 20, 20)
        grid.setHorizontalSpacing(14)
        grid.setVerticalSpacing(8)
        grid.setColumnStretch(2, 1)
        self.names = {name: label(name, "title") for name, _ in TERMS}
        for row, (name, words) in enumerate(TERMS):
            picture = label()
            picture.setPixmap(term_picture(name))
            picture.setAccessibleName(f"Picture of {name}")
            for column, widget in enumerate((self.names[name], picture, label(words, wrap=True))):
                grid.addWidget(widget, row, column, Qt.AlignmentFlag.AlignVCenter)
        self.area = QScrollArea()
        self.area.setWidget(inside)
        self.area.setWidgetResizable(True)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(self.area)
        self.resize(WIDE, HIGH)
        self._first = term

    def open(self) -> None:
        super().open()
        if self._first in self.names:
            self.names[self._first].setProperty("role", "picture")
            self.names[self._first].style().polish(self.names[self._first])
            self.area.ensureWidgetVisible(self.names[self._first], 0, HIGH // 2)


def show_glossary(owner: QWidget, term: str = "") -> None:
    """Show what the terms mean, one of them first."""
    Glossary(owner, term).open()
