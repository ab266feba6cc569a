"""The form that asks which trials to render: one frame, or a whole ladder. GUI thread."""

from collections.abc import Callable

from PySide6.QtWidgets import QDialog, QFormLayout, QHBoxLayout, QLineEdit, QPlainTextEdit, QVBoxLayout, QWidget

from pemlo.core.errors import PemloError
from pemlo.gui.common.enabling import enable
from pemlo.gui.common.labels import button, label
from pemlo.gui.common.plain import set_tip
from pemlo.gui.trials import render_words

_FIELDS = (
    ("frames", "Frames", "Which frames: 41, or 1,41,80, or 1-80x20"),
    ("samples", "Samples", "Samples a pixel; several for a ladder: 8, 16, 32. With thresholds the most"),
    ("thresholds", "Thresholds", "Noise thresholds, several for a ladder: 0.08, 0.04; empty for fixed sampling"),
    ("least", "Min samples", "Min samples a pixel, with a threshold"),
    ("size", "Size", "Resolution percentage of each side"),
    ("denoise", "Denoise", "none, frame, neighbours; frame soft or strong; or neighbours 8 2 for radius and reach"),
    ("keep", "Keep", "Stages whose data are read back from an earlier trial: prepare light; empty for none"),
    ("cap", "Time limit", "Tracing ends after so long, like 4:02; empty for no cap"),
    ("split", "Split", "Rays a sample to lights, off a gloss, through glass: 4,1,2"),
    ("switches", "Switches", "motion blur, soft filter, with commas between; empty for none"),
    ("saves", "Saves", "How often the unfinished frame is written; a broken one goes on from there"),
    ("region", "Region", "Left, top, right, bottom in px of the whole frame; empty for all of it"),
)


_COMMANDS_PX = 120


class RenderForm(QDialog):
    """Asks for frames and settings; what it is given to begin with is one frame.

    Parameters
    ----------
    shot : str
        Named in the title.
    way : str
        Which way renders them.
    begin : dict of str
        What the fields say at first; see `render_words.beginning`.
    count : callable
        From what is typed to the words that say what would be rendered; may raise PemloError.
    dry_run : callable
        From what is typed to the lines of all commands that would be run; may raise PemloError.
    start : callable
        Takes what is typed; may raise PemloError, and the form stays.
    """

    def __init__(
        self,
        parent: QWidget,
        shot: str,
        way: str,
        begin: dict[str, str],
        count: Callable[[dict[str, str]], str],
        dry_run: Callable[[dict[str, str]], list[str]],
        start: Callable[[dict[str, str]], None],
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(f"Render trials of {shot}")
        self._count, self._dry_run, self._start = count, dry_run, start
        self.fields: dict[str, QLineEdit] = {}
        form = QFormLayout()
        for name, words, tip in _FIELDS:
            field = self.fields[name] = QLineEdit(begin[name])
            set_tip(field, tip)
            field.setAccessibleName(words)
            field.setMinimumWidth(300)
            field.textChanged.connect(self._say)
            form.addRow(words, field)
        self.words = label("", "second", wrap=True)
        self.commands = QPlainTextEdit()
        self.commands.setReadOnly(True)
        self.commands.setAccessibleName("Commands that would be run")
        self.commands.setMinimumHeight(_COMMANDS_PX)
        self.commands.hide()
        row = QHBoxLayout()
        row.addWidget(
            button(
                "Make it a ladder",
                "Samples doubling, or thresholds halving, step by step up to those above",
                self._ladder,
                link=True,
            )
        )
        row.addWidget(button("Dry run", "Show every command, run none", self.show_commands, link=True))
        row.addStretch(1)
        row.addWidget(button("Cancel", "Render nothing", self.reject))
        self.go = button("Render", "Render these frames, one after another", self._on_start, main=True)
        row.addWidget(self.go)
        column = QVBoxLayout(self)
        column.addWidget(
            label(f"Rendered one after another by “{way}”, each in a process of its own.", "second", wrap=True)
        )
        column.addLayout(form)
        column.addWidget(self.words)
        column.addWidget(self.commands, 1)
        column.addLayout(row)
        self._say()

    def typed(self) -> dict[str, str]:
        """Return what the fields say."""
        return {name: field.text() for name, field in self.fields.items()}

    def _say(self) -> None:
        self.commands.hide()
        try:
            self.words.setText(self._count(self.typed()))
            enable(self.go)
        except PemloError as error:
            self.words.setText(str(error))
            enable(self.go, str(error))

    def show_commands(self) -> None:
        """Show every command that would be run."""
        try:
            self.commands.setPlainText("\n".join(self._dry_run(self.typed())))
            self.commands.show()
        except PemloError as error:
            self.words.setText(str(error))

    def _ladder(self) -> None:
        try:
            for name, text in render_words.as_ladder(self.typed()).items():
                self.fields[name].setText(text)
        except PemloError as error:
            self.words.setText(str(error))

    def _on_start(self) -> None:
        try:
            self._start(self.typed())
        except PemloError as error:
            self.words.setText(str(error))
            return
        self.accept()
