"""The form that asks how much time is spent on trials, and on which. GUI thread."""

from collections.abc import Callable, Sequence

from PySide6.QtWidgets import QDialog, QFormLayout, QHBoxLayout, QLineEdit, QRadioButton, QVBoxLayout, QWidget

from pemlo.core.errors import InputError, Problem
from pemlo.core.trialrun.spending import Order
from pemlo.core.units import MINUTE_S, format_duration, parse_duration
from pemlo.gui.common.enabling import enable
from pemlo.gui.common.labels import button, label
from pemlo.gui.common.plain import set_tip

LONGEST_MIN = 14 * 24 * 60.0
WORDS = (
    "What tells most for its time is rendered, and looked for anew after every frame. It ends early when the verdict "
    "is settled, or no trial would tell more than a tenth."
)


def read_minutes(text: str) -> float:
    """Read how long trials may take; a number alone is minutes.

    Raises
    ------
    InputError

    Examples
    --------
    >>> read_minutes("40"), read_minutes("2 h"), read_minutes("1h30")
    (40.0, 120.0, 90.0)
    """
    plain = text.strip()
    minutes = parse_duration(f"{plain} min" if plain.replace(".", "", 1).isdecimal() else plain) / MINUTE_S
    if minutes > LONGEST_MIN:
        raise InputError([Problem("Time", f"{text[:40]} is more than two weeks")])
    return minutes


class SpendForm(QDialog):
    """Asks for minutes, an order and shots.

    Parameters
    ----------
    way : str
        Name of the way that renders.
    said : str
        What is to be known of it beforehand, empty for nothing.
    picked : sequence of str
        Shots that are picked: only these may be wanted.
    start : callable
        Takes minutes, the order, and shots (none for all).
    """

    def __init__(
        self,
        parent: QWidget,
        way: str,
        said: str,
        picked: Sequence[str],
        start: Callable[[float, Order, tuple[str, ...]], None],
    ) -> None:
        super().__init__(parent)
        self._picked, self._start = tuple(picked), start
        self.setWindowTitle("Spend time on trials")
        self.time = QLineEdit("40 min")
        self.time.setAccessibleName("How long")
        set_tip(self.time, "40, 40 min, 2 h; a number alone is minutes")
        self.telling, self.in_turn = QRadioButton("What decides the deadline"), QRadioButton("One shot after another")
        self.telling.setChecked(True)
        self.all = QRadioButton("All shots")
        listed = ", ".join(self._picked[:4]) + (f" and {len(self._picked) - 4} more" if len(self._picked) > 4 else "")
        self.some = QRadioButton(f"Only {listed}")
        self.all.setChecked(True)
        self.some.setVisible(bool(self._picked))
        self.words = label("", "second", wrap=True)
        form = QFormLayout()
        form.addRow("How long", self.time)
        form.addRow("Which first", self._beside(self.telling, self.in_turn))
        form.addRow("Of", self._beside(self.all, self.some))
        self.go = button("Spend it", "Render until the time is over", self._on_start, main=True)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(button("Cancel", "Render nothing", self.reject))
        row.addWidget(self.go)
        column = QVBoxLayout(self)
        column.addWidget(label(f"{WORDS} Rendered by “{way}”. {said}".strip(), "second", wrap=True))
        column.addLayout(form)
        column.addWidget(self.words)
        column.addLayout(row)
        self.time.textChanged.connect(self._say)
        self._say()
        self.setMinimumWidth(460)

    def _beside(self, *boxes: QRadioButton) -> QWidget:
        place = QWidget()
        row = QHBoxLayout(place)
        row.setContentsMargins(0, 0, 0, 0)
        for box in boxes:
            row.addWidget(box)
        row.addStretch(1)
        return place

    def _say(self) -> None:
        try:
            minutes = read_minutes(self.time.text())
        except InputError as error:
            self.words.setText(" ".join(str(error).split()))
            enable(self.go, self.words.text())
            return
        self.words.setText("")
        enable(self.go)
        whole = minutes < 60 and minutes == round(minutes)
        self.go.setText(f"Spend {minutes:.0f} min" if whole else f"Spend {format_duration(minutes * MINUTE_S)}")

    def _on_start(self) -> None:
        minutes = read_minutes(self.time.text())
        shots = self._picked if self.some.isChecked() else ()
        self.accept()
        self._start(minutes, "telling" if self.telling.isChecked() else "shots", shots)
