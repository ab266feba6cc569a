"""A form of fields that are data: each takes what is typed when it is left, or says what is wrong. GUI thread."""

from collections.abc import Callable, Sequence
from datetime import datetime
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QGridLayout, QLineEdit, QWidget

from pemlo.core.errors import InputError
from pemlo.core.project.project import Project
from pemlo.gui.common.columns import Field
from pemlo.gui.common.dotted import dotted
from pemlo.gui.common.labels import label
from pemlo.gui.common.moment_field import MomentField
from pemlo.gui.common.plain import set_tip
from pemlo.gui.table.model import Edit


class Form(QWidget):
    """Labels, fields and, under a field, what is wrong with it."""

    def __init__(self, fields: Sequence[Field], edit: Edit) -> None:
        super().__init__()
        self._fields, self._edit = tuple(fields), edit
        self._project: Project | None = None
        self._shown: dict[str, str] = {}  # leaving an untouched field changes nothing
        self.inputs: dict[str, QLineEdit | QComboBox] = {}
        self._wrong = {field.name: label("", "limit", small=True, wrap=True) for field in fields}
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(5)
        grid.setColumnStretch(1, 1)
        for row, field in enumerate(fields):
            made = self._make(field)
            name = dotted(label(f"{field.label}, {field.unit}" if field.unit else field.label, "second"))
            name.setBuddy(made)
            grid.addWidget(name, 2 * row, 0, Qt.AlignmentFlag.AlignLeft)
            grid.addWidget(made, 2 * row, 1)
            grid.addWidget(self._wrong[field.name], 2 * row + 1, 0, 1, 2)
            self._wrong[field.name].hide()

    def _make(self, field: Field) -> QLineEdit | QComboBox:
        made: QLineEdit | QComboBox
        if field.choices:
            made = QComboBox()
            made.setEditable(True)
            made.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
            made.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            made.setMinimumContentsLength(10)
            made.addItems(list(field.choices))
            made.activated.connect(lambda _: self._on_done(field))
            line = made.lineEdit()
            assert line is not None
            line.editingFinished.connect(lambda: self._on_done(field))
        else:
            made = QLineEdit() if field.moment is None else MomentField(partial(self._moment, field.moment))
            made.editingFinished.connect(lambda: self._on_done(field))
        made.setMinimumWidth(60)
        set_tip(made, field.tip)
        made.setAccessibleName(field.label)
        made.setAccessibleDescription(field.tip)
        self.inputs[field.name] = made
        return made

    def _moment(self, moment: Callable[[Project], datetime]) -> datetime:
        assert self._project is not None
        return moment(self._project)

    def show_project(self, project: Project) -> None:
        self._project = project
        for field in self._fields:
            self._shown[field.name] = field.text(project)
            self._set(field, self._shown[field.name])
            self._say(field, "")

    def _text(self, field: Field) -> str:
        made = self.inputs[field.name]
        return made.currentText() if isinstance(made, QComboBox) else made.text()

    def _set(self, field: Field, text: str) -> None:
        made = self.inputs[field.name]
        if self._text(field) == text:
            return
        line = made.lineEdit() if isinstance(made, QComboBox) else made
        assert line is not None
        line.setText(text)
        line.setCursorPosition(0)

    def _on_done(self, field: Field) -> None:
        text = self._text(field)
        if text == self._shown.get(field.name):
            return
        try:
            self._edit(f"Set {field.label.lower()}", lambda project: field.edit(project, text))
        except InputError as error:
            self._say(field, " ".join(problem.what for problem in error.problems))
        else:
            self._say(field, "")

    def _say(self, field: Field, wrong: str) -> None:
        words = self._wrong[field.name]
        words.setText(wrong[:1].upper() + wrong[1:] + ("." if wrong and not wrong.endswith(".") else ""))
        words.setVisible(bool(wrong))
        made = self.inputs[field.name]
        made.setProperty("wrong", bool(wrong))
        made.style().unpolish(made)
        made.style().polish(made)
