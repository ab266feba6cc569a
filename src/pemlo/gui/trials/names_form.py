"""The form that asks under which names a renderer writes times and settings into its pictures. GUI thread."""

from collections.abc import Mapping

from PySide6.QtWidgets import QComboBox, QDialog, QGridLayout, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from pemlo.core.files.header import Header
from pemlo.core.persistence.trial_header import FIELDS, NEEDED
from pemlo.gui.common.labels import button, label
from pemlo.gui.common.plain import set_tip
from pemlo.gui.trials.dropped_words import guessed_names, title_of

NOT_THERE = "–"


class NamesForm(QDialog):
    """Asks for the attribute of each field, with what the first picture says there.

    Parameters
    ----------
    header : Header
        Of a picture that was brought in.
    names : mapping
        What is remembered from before.
    """

    def __init__(self, parent: QWidget, header: Header, names: Mapping[str, str]) -> None:
        super().__init__(parent)
        self.setWindowTitle("Names in picture headers")
        self._header = header
        self.boxes: dict[str, QComboBox] = {}
        begin = {**guessed_names(header), **names}
        inside = QWidget()
        grid = QGridLayout(inside)
        grid.setContentsMargins(0, 0, 8, 0)
        self._said = {}
        for row, field in enumerate(FIELDS):
            box = self.boxes[field] = QComboBox()
            box.addItem(NOT_THERE, "")
            for name in sorted(header.attributes):
                box.addItem(name, name)
            box.setCurrentIndex(max(0, box.findData(begin.get(field, ""))))
            box.setAccessibleName(title_of(field))
            set_tip(box, f"Attribute that holds: {title_of(field).lower()}")
            box.setMinimumWidth(240)
            said = self._said[field] = label("", "second")
            said.setMinimumWidth(200)
            grid.addWidget(label(title_of(field) + (" (needed)" if field in NEEDED else "")), row, 0)
            grid.addWidget(box, row, 1)
            grid.addWidget(said, row, 2)
            box.currentIndexChanged.connect(self._say)
        scroll = QScrollArea()
        scroll.setWidget(inside)
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QScrollArea.Shape.NoFrame)
        buttons = QHBoxLayout()
        buttons.addStretch(1)
        buttons.addWidget(button("Cancel", "Bring nothing in", self.reject))
        self.go = button("Bring in", "Read the pictures with these names, and remember them", self.accept, main=True)
        buttons.addWidget(self.go)
        column = QVBoxLayout(self)
        words = (
            f"{header.path.name} was not written by Pemlo's renderer. Say which attribute of its header holds what; "
            "that is remembered for other pictures."
        )
        column.addWidget(label(words, wrap=True))
        column.addWidget(scroll, 1)
        column.addLayout(buttons)
        self.resize(620, 560)
        self._say()

    def names(self) -> dict[str, str]:
        """Return the attribute of each field that has one."""
        return {field: str(box.currentData()) for field, box in self.boxes.items() if box.currentData()}

    def _say(self) -> None:
        names = self.names()
        for field, said in self._said.items():
            said.setText(self._header.attributes.get(names.get(field, ""), ""))
        self.go.setEnabled(all(field in names for field in NEEDED))
