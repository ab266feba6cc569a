"""What can be handed over: each with a look at it, and what is usually handed over in one go. GUI thread."""

from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from pemlo.core.units import counted
from pemlo.gui.common.enabling import enable
from pemlo.gui.common.flow import FlowLayout
from pemlo.gui.common.fonts import SMALL, font
from pemlo.gui.common.labels import Elided, Shortened, button, label
from pemlo.gui.common.plain import set_tip
from pemlo.handover.command_lines import FIELDS

LEAST, WIDTH = 262, 286


@dataclass(frozen=True)
class Group:
    """Something that is handed over in several forms.

    Attributes
    ----------
    name, words : str
    look : str
        Which of its files is looked at.
    files : tuple of (str, str)
        Their keys, and what they are called here.
    """

    name: str
    words: str
    look: str
    files: tuple[tuple[str, str], ...]


GROUPS = (
    Group("Settings sheet", "what to enter", "settings.pdf",
          (("settings.pdf", "PDF"), ("settings.html", "HTML"), ("settings.csv", "CSV"), ("settings.json", "JSON"))),
    Group("Command lines", "from a template", "commands.txt", (("commands.txt", "Text"),)),
    Group("The case", "two minutes for a producer", "case.pdf", (("case.pdf", "PDF"), ("case.html", "HTML"))),
    Group("Picture sheet", "every shot, to mark on", "pictures.pdf",
          (("pictures.pdf", "PDF"), ("pictures.html", "HTML"))),
    Group("Run sheet", "who renders when", "hours.csv", (("run.ics", "Calendar"), ("hours.csv", "CSV"))),
    Group("Tables", "as CSV", "checks.csv", (("launch.csv", "launch"), ("checks.csv", "checks"), ("shots.csv", "shots"),
                                             ("trials.csv", "trials"), ("machines.csv", "machines"))),
)  # fmt: skip
TEMPLATE_TIP = (
    f"Fields in braces: {' '.join(f'{{{name}}}' for name in FIELDS)}. Each value is quoted for the shell; "
    "{{ and }} are braces. Pemlo never runs it."
)


class OutputsBox(QWidget):
    """The list.

    Signals
    -------
    look_wanted(Group)
    usual_changed(list of str)
        Keys of the files that are ticked.
    template_changed(str)
    hand_over_wanted(), movie_wanted(), pack_wanted()
    """

    look_wanted = Signal(object)
    usual_changed = Signal(list)
    template_changed = Signal(str)
    hand_over_wanted = Signal()
    movie_wanted = Signal()
    pack_wanted = Signal()

    def __init__(self, usual: Sequence[str], template: str) -> None:
        super().__init__()
        self.setMinimumWidth(LEAST)
        self.setMaximumWidth(WIDTH)
        self.ticks: dict[str, QCheckBox] = {}
        self.template = QLineEdit(template)
        self.template.setPlaceholderText("render {shot} -s {first} -e {last}")
        self.template.setAccessibleName("Template of command lines")
        set_tip(self.template, TEMPLATE_TIP)
        self.template.editingFinished.connect(lambda: self.template_changed.emit(self.template.text()))
        self.wrong = label("", "limit", small=True, wrap=True)
        self.wrong.hide()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 14, 0)
        column.setSpacing(3)
        column.addWidget(label("What can be handed over", "title"))
        for group in GROUPS:
            self._add(column, group, usual)
        column.addSpacing(6)
        self.all = Shortened("Write all that is ticked into a folder of your choice", self.hand_over_wanted.emit)
        column.addWidget(self.all)
        others = QWidget()
        more = FlowLayout(others, spacing=6)
        self.movie = button("Review movie…", "Of finished or trial frames", self.movie_wanted.emit)
        self.pack = button(
            "Whole project…", "With its pictures, as a folder that opens elsewhere", self.pack_wanted.emit
        )
        for push_button in (self.movie, self.pack):
            more.addWidget(push_button)
        column.addWidget(others)
        self.said = label("", "second", small=True, wrap=True)
        column.addWidget(self.said)
        column.addStretch(1)
        self._count()

    def _add(self, column: QVBoxLayout, group: Group, usual: Sequence[str]) -> None:
        head = QHBoxLayout()
        head.setContentsMargins(0, 5, 0, 0)
        title = label(group.name)
        set_tip(title, group.words)
        head.addWidget(title)
        beside = Elided("second")
        beside.setFont(font(SMALL))
        beside.setText(group.words)
        head.addWidget(beside, 1)
        head.addWidget(
            button("Look", f"Look at it: {group.name.lower()}", lambda: self.look_wanted.emit(group), link=True)
        )
        column.addLayout(head)
        if group.look == "commands.txt":
            column.addWidget(self.template)
            column.addWidget(self.wrong)
        ticks = QWidget()
        row = FlowLayout(ticks, spacing=7)
        for key, name in group.files:
            tick = QCheckBox(name)
            tick.setChecked(key in usual)
            tick.setAccessibleName(f"{group.name} as {name}")
            set_tip(tick, f"Hand over {key} with the others")
            tick.toggled.connect(self._on_ticked)
            self.ticks[key] = tick
            row.addWidget(tick)
        column.addWidget(ticks)

    @property
    def usual(self) -> list[str]:
        """Keys of the files that are ticked, in their order."""
        return [key for key, tick in self.ticks.items() if tick.isChecked()]

    def _on_ticked(self) -> None:
        self._count()
        self.usual_changed.emit(self.usual)

    def _count(self) -> None:
        count = len(self.usual)
        self.all.setText(f"Hand over {counted(count, 'file')} into a folder…" if count else "Tick what is handed over")
        enable(self.all, "" if count else "Nothing is ticked.")

    def say_wrong(self, words: str) -> None:
        """Say what is wrong with the template; nothing if nothing is."""
        self.wrong.setText(words)
        self.wrong.setVisible(bool(words))
