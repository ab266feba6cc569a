"""A box that drops a list, with a small mark that says so. GUI thread."""

from collections.abc import Sequence

from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtGui import QHelpEvent, QPainter, QPaintEvent, QPolygonF
from PySide6.QtWidgets import QComboBox, QStyle, QStyleOptionComboBox, QStylePainter

from pemlo.gui.common.plain import set_tip, show_tip

BEFORE_MARK = 16  # px from where the mark begins to the right edge


class Choice(QComboBox):
    """One of a few words.

    Parameters
    ----------
    name : str
        What is chosen, for screen readers.
    tip : str
    words : sequence of str
    """

    def __init__(self, name: str, tip: str, words: Sequence[str] = ()) -> None:
        super().__init__()
        self.addItems(list(words))
        self.setAccessibleName(name)
        self._tip = tip
        set_tip(self, tip)

    def event(self, event: QEvent) -> bool:
        """Say the whole of what ends in dots, with the tip."""
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            show_tip(event.globalPos(), f"{self.currentText()}\n{self._tip}", self)
            return True
        return super().event(event)

    def paintEvent(self, _event: QPaintEvent) -> None:
        option = QStyleOptionComboBox()
        self.initStyleOption(option)
        style = self.style()
        room = style.subControlRect(
            QStyle.ComplexControl.CC_ComboBox, option, QStyle.SubControl.SC_ComboBoxEditField, self
        )
        # Qt cuts words that are too long in the middle of a letter.
        most = self.width() - BEFORE_MARK - room.left()
        option.currentText = self.fontMetrics().elidedText(self.currentText(), Qt.TextElideMode.ElideRight, most)
        drawn = QStylePainter(self)
        drawn.drawComplexControl(QStyle.ComplexControl.CC_ComboBox, option)
        drawn.drawControl(QStyle.ControlElement.CE_ComboBoxLabel, option)
        drawn.end()
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            x, y = self.width() - 12, self.height() / 2
            painter.setBrush(self.palette().buttonText())
            painter.setPen(self.palette().buttonText().color())
            painter.drawPolygon(QPolygonF([QPointF(x - 3, y - 1.5), QPointF(x + 3, y - 1.5), QPointF(x, y + 2.5)]))
