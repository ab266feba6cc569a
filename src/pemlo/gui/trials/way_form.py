"""The page of a way to render: the command, its fields, what it says, where it runs, and a dry run. GUI thread."""

from collections.abc import Callable, Sequence
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPlainTextEdit,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from pemlo.core.errors import InputError, PemloError
from pemlo.core.project.project import Project
from pemlo.core.project.render_ways import FieldName, RenderWay
from pemlo.core.trialrun.learned import learned
from pemlo.gui.common.enabling import enable
from pemlo.gui.common.flow import FlowLayout
from pemlo.gui.common.labels import button, label
from pemlo.gui.common.plain import set_tip
from pemlo.gui.trials import way_texts
from pemlo.words.trial_runs import not_reachable_words

WORDS = (
    "Paste a command that rendered one frame, and press Learn: its numbers become fields where they are known. "
    "Correct it: select a part of it and press what it is."
)
_IN_COMMAND: tuple[FieldName, ...] = (
    "frame", "samples", "threshold", "min_samples", "percent", "width", "height", "region", "denoise", "switches",
    "scene", "camera", "seed", "out",
)  # fmt: skip
_LINE_PX = 19


class Lines(QPlainTextEdit):
    """A field of some lines; Tab goes on to the next field."""

    def __init__(self, lines: int, name: str, tip: str) -> None:
        super().__init__()
        self.setTabChangesFocus(True)
        self.setProperty("field", True)
        self.setAccessibleName(name)
        set_tip(self, tip)
        self.setFixedHeight(_LINE_PX * lines + 12)
        self.setLineWrapMode(QPlainTextEdit.LineWrapMode.WidgetWidth)


class WayForm(QDialog):
    """The page; what it made is handed to `keep`.

    Parameters
    ----------
    project : Project
        Whose shots say what numbers of a command are.
    way : RenderWay, optional
        That is changed; a new one if None.
    own : sequence of RenderWay
        The person's own, to begin with.
    dry_run : callable
        From a way to the lines of its dry run; may raise PemloError.
    keep : callable
        Takes the way, whether it is kept for other films, too, and whether one trial is tried at once.
    """

    def __init__(
        self,
        parent: QWidget,
        project: Project,
        way: RenderWay | None,
        own: Sequence[RenderWay],
        dry_run: Callable[[RenderWay], Sequence[str]],
        keep: Callable[[RenderWay, bool, bool], None],
    ) -> None:
        super().__init__(parent)
        self._project, self._own, self._dry_run, self._keep = project, tuple(own), dry_run, keep
        self.setWindowTitle("How a frame is rendered")
        self.name = QLineEdit()
        self.name.setAccessibleName("Name of the way")
        self.name.setMaximumWidth(180)
        self.command = Lines(4, "Command", "What renders one frame, with fields in braces")
        self.command.setPlaceholderText("draw quay.scn --frame 12 --samples 64 --out quay.0012.exr")
        self.inputs: dict[str, QLineEdit | Lines] = {}
        self.shell = QCheckBox("Run it in a shell")
        set_tip(self.shell, "Only for pipes and the like: without, no value can give orders to a shell")
        self.first = QCheckBox("Leave out the first frame on each machine")
        set_tip(self.first, "Caches are cold then: it takes longer than those that follow")
        self.mine = QCheckBox("Keep it for my other films, too")
        self.learned, self.reach = label("", "second", wrap=True), label("", "second", wrap=True)
        self.wrong = label("", "limit", wrap=True)
        self.dry = QPlainTextEdit()
        self.dry.setReadOnly(True)
        self.dry.setAccessibleName("Dry run: commands that would be run")
        self.dry.setTabChangesFocus(True)
        self.dry.setPlaceholderText("The next trial's command stands here once nothing is wrong.")
        self._lay_out()
        self._show(way_texts.empty_texts() if way is None else way_texts.texts_of(way), way)
        for widget in (self.name, *self.inputs.values()):
            widget.textChanged.connect(self._say)
        self.command.textChanged.connect(self._say)
        self.shell.toggled.connect(self._say)
        self._say()
        self.resize(980, 660)
        self.command.setFocus()

    def _lay_out(self) -> None:
        both = QHBoxLayout()
        both.setSpacing(18)
        both.addLayout(self._command_side(), 1)
        both.addWidget(self._field_side(), 1)
        foot = QHBoxLayout()
        foot.addWidget(self.mine)
        foot.addStretch(1)
        foot.addWidget(button("Cancel", "Leave the way as it was", self.reject))
        self.try_it = button("Keep it and try one frame", "Render the trial of the dry run", self._accept_and_try)
        self.go = button("Keep it", "Keep it in the project, and allow it here", self._accept, main=True)
        foot.addWidget(self.try_it)
        foot.addWidget(self.go)
        column = QVBoxLayout(self)
        column.addLayout(both, 1)
        column.addLayout(foot)

    def _command_side(self) -> QVBoxLayout:
        column, head = QVBoxLayout(), QHBoxLayout()
        head.addWidget(label("Name", "second"))
        head.addWidget(self.name)
        head.addStretch(1)
        if self._own:
            box = QComboBox()
            box.setAccessibleName("Begin with one of my ways")
            box.addItem("begin with one of mine…")
            box.addItems([way.name for way in self._own])
            box.activated.connect(self._on_own)
            head.addWidget(box)
        tip = "What is selected in the command is the {}"
        column.addLayout(head)
        column.addWidget(label(WORDS, "second", wrap=True))
        column.addWidget(self.command)
        column.addWidget(self._buttons(_IN_COMMAND, tip, self._as_field, self.click_learn))
        column.addWidget(self.learned)
        column.addWidget(self.reach)
        column.addWidget(label("Dry run", "title"))
        column.addWidget(self.dry, 1)
        column.addWidget(self.wrong)
        return column

    def _field_side(self) -> QScrollArea:
        grid = QGridLayout()
        grid.setColumnStretch(1, 1)
        grid.setVerticalSpacing(5)
        for row, (name, words, tip, lines) in enumerate(way_texts.FIELDS):
            made: QLineEdit | Lines = Lines(lines, words, tip) if lines else QLineEdit()
            if isinstance(made, QLineEdit):
                made.setAccessibleName(words)
                set_tip(made, tip)
            made.setPlaceholderText(way_texts.EXAMPLES.get(name, ""))
            self.inputs[name] = made
            title = label(words, "second")
            set_tip(title, tip)
            grid.addWidget(title, 2 * row, 0, Qt.AlignmentFlag.AlignTop)
            grid.addWidget(made, 2 * row, 1)
            if name == "output":
                marks = self._buttons(way_texts.MARKS, "What is selected in the line is the {}", self._as_mark)
                grid.addWidget(marks, 2 * row + 1, 1)
        for number, check in enumerate((self.first, self.shell)):
            grid.addWidget(check, 2 * len(way_texts.FIELDS) + number, 1)
        grid.setRowStretch(2 * len(way_texts.FIELDS) + 2, 1)
        inner = QWidget()
        inner.setLayout(grid)
        scroll = QScrollArea()
        scroll.setWidget(inner)
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        return scroll

    def _buttons(
        self, names: Sequence[str], tip: str, act: Callable[[str], None], learn: Callable[[], None] | None = None
    ) -> QWidget:
        """Return buttons that say what a selected part is."""
        place = QWidget()
        row = FlowLayout(place)
        if learn is not None:
            row.addWidget(button("Learn", "Put fields where the command's numbers are known", learn))
        for name in names:
            words = name.replace("_", " ")
            row.addWidget(button(words, tip.format(words), partial(act, name), link=True))
        return place

    def _show(self, texts: dict[str, str], way: RenderWay | None) -> None:
        self.name.setText(texts["name"])
        self.command.setPlainText(texts["command"])
        for name, made in self.inputs.items():
            made.setText(texts[name]) if isinstance(made, QLineEdit) else made.setPlainText(texts[name])
        self.shell.setChecked(way is not None and way.shell)
        self.first.setChecked(way is not None and way.first_left_out)

    def texts(self) -> dict[str, str]:
        """Return what the page says."""
        found = {"name": self.name.text(), "command": self.command.toPlainText()}
        for name, made in self.inputs.items():
            found[name] = made.text() if isinstance(made, QLineEdit) else made.toPlainText()
        return found

    @property
    def way(self) -> RenderWay:
        """The way that the page says.

        Raises
        ------
        InputError
        """
        return way_texts.way_of(self.texts(), shell=self.shell.isChecked(), first_left_out=self.first.isChecked())

    def _say(self) -> None:
        wrong = not_yet = ""
        try:
            way = self.way
            self.reach.setText(not_reachable_words(way))
        except PemloError as error:
            wrong = not_yet = " ".join(str(error).split())
            self.reach.setText("")
            self.dry.setPlainText("")
        else:
            # A way may be kept before a shot has what its command needs.
            try:
                self.dry.setPlainText("\n".join(self._dry_run(way)))
            except PemloError as error:
                not_yet = " ".join(str(error).split())
                self.dry.setPlainText(not_yet)
        self.wrong.setText(wrong if self.command.toPlainText().strip() else "")
        enable(self.go, wrong)
        enable(self.try_it, not_yet)
        for words in (self.learned, self.reach, self.wrong):
            words.setVisible(bool(words.text()))

    def click_learn(self) -> None:
        """Put fields where the command's numbers are known."""
        try:
            made = learned(self.command.toPlainText(), self._project)
        except InputError as error:
            self.wrong.setText(str(error))
            return
        self.command.setPlainText(made.command)
        if made.picture:
            picture = self.inputs["picture"]
            assert isinstance(picture, QLineEdit)
            picture.setText(made.picture)
        words = [f"{one.word} is the {one.field.replace('_', ' ')}: {one.why}." for one in made.words]
        if made.unknown:
            words.append(f"Not recognised: {', '.join(made.unknown)}. Select one and press what it is, if it is one.")
        self.learned.setText(" ".join(words) or "Nothing was recognised: select a part and press what it is.")
        self._say()

    def _as_field(self, name: str) -> None:
        self._replace(self.command, partial(way_texts.with_field, field=name))

    def _as_mark(self, name: str) -> None:
        output = self.inputs["output"]
        assert isinstance(output, Lines)
        self._replace(output, partial(way_texts.marked, field=name))

    def _replace(self, box: QPlainTextEdit, change: Callable[[str, int, int], str]) -> None:
        cursor = box.textCursor()
        if not cursor.hasSelection():
            self.wrong.setText("Select a part of the text first, then press what it is.")
            self.wrong.show()
            return
        begin, end = cursor.selectionStart(), cursor.selectionEnd()
        box.setPlainText(change(box.toPlainText(), begin, end))

    def _on_own(self, number: int) -> None:
        if number > 0:
            way = self._own[number - 1]
            self._show(way_texts.texts_of(way), way)

    def _accept(self) -> None:
        self._keep_it(try_it=False)

    def _accept_and_try(self) -> None:
        self._keep_it(try_it=True)

    def _keep_it(self, *, try_it: bool) -> None:
        try:
            way = self.way
        except PemloError as error:
            self.wrong.setText(str(error))
            return
        self.accept()
        self._keep(way, self.mine.isChecked(), try_it)
