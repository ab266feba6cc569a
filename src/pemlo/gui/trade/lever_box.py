"""One lever: name, where it stands, a slider over its values, what a step either way does, a pin. GUI thread."""

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QHBoxLayout,
    QSizePolicy,
    QSlider,
    QStyle,
    QStyleOptionSlider,
    QVBoxLayout,
    QWidget,
)

from pemlo.core.project.project import Project
from pemlo.core.project.settings import ALLOWABLE, CHARACTER, LeverName
from pemlo.core.trade.levers import lever_name
from pemlo.gui.common.colours import colours
from pemlo.gui.common.dotted import dotted
from pemlo.gui.common.fonts import SMALL, font
from pemlo.gui.common.labels import Elided, Heading, button, rule
from pemlo.gui.common.plain import set_tip
from pemlo.gui.trade.presenter import LEVER_TIPS, LeverRow


class CharacterHeading(QWidget):
    """The heading.

    Signals
    -------
    wanted(bool)
        Plans may move these levers in every shot, or in none.
    """

    wanted = Signal(bool)

    def __init__(self) -> None:
        super().__init__()
        self._allowed = False
        tip = (
            "Plans may render smaller, hold frames, turn switches, and denoise frame by frame where something moves, "
            "in every shot; or in none"
        )
        self.every = button("", tip, lambda: self.wanted.emit(not self._allowed), link=True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 0)
        column.addWidget(Heading("What the picture is", self.every))

    def show_project(self, project: Project) -> None:
        """Say what the button does now."""
        self._allowed = all(set(ALLOWABLE) <= set(shot.allows) for shot in project.shots)
        self.every.setText("lock in all shots" if self._allowed else "allow in all shots")


HOLD_TIP = "A plan that is looked for leaves this lever where it stands"
ALLOW_TIP = (
    "Locked, since it changes what the picture is and not how noisy: plans leave it as asked. Allowed, they may move "
    "it. A trial of it that is marked good enough allows it, too"
)

NAME_PX, SLIDER_PX, LEAST_VALUE_PX, MOST_VALUE_PX = 80, 44, 44, 104


class LeverSlider(QSlider):
    """A slider with a mark where it stood as asked."""

    def __init__(self) -> None:
        super().__init__(Qt.Orientation.Horizontal)
        self.setMinimumWidth(SLIDER_PX)
        self.asked = 0

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        option = QStyleOptionSlider()
        self.initStyleOption(option)
        handle = self.style().pixelMetric(QStyle.PixelMetric.PM_SliderLength, option, self)
        share = (self.asked - self.minimum()) / max(self.maximum() - self.minimum(), 1)
        x = handle / 2 + share * (self.width() - handle)
        with QPainter(self) as painter:
            painter.fillRect(QRectF(x - 1, 1, 2, self.height() - 2), colours().second)


class LeverBox(QWidget):
    """A lever.

    Signals
    -------
    moved(str, object)
        Lever, and its new value; many while it is dragged.
    pinned(str, bool)
    allowed(str, bool)
        Plans may move it, though it changes what the picture is; or not any more.
    let_go(str)
        A drag has ended: what comes next is another step of the history.
    """

    moved = Signal(str, object)
    pinned = Signal(str, bool)
    allowed = Signal(str, bool)
    let_go = Signal(str)

    def __init__(self, lever: LeverName) -> None:
        super().__init__()
        self.lever: LeverName = lever
        self._row: LeverRow | None = None
        self.name, self.value = Elided("second"), Elided("title")
        dotted(self.name, lever_name(lever))
        self.locks = lever in CHARACTER
        self.pin = QCheckBox("allow" if self.locks else "hold")
        set_tip(self.pin, ALLOW_TIP if self.locks else HOLD_TIP)
        self.slider = LeverSlider()
        set_tip(self.slider, LEVER_TIPS[lever])
        self.steps = Elided()
        self.steps.setFont(font(SMALL))
        self.back = button("", "Put it back to where it was asked to be", self._to_asked, link=True)
        self.name.setFixedWidth(NAME_PX)
        self.name.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Preferred)
        self.value.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Preferred)
        above, below = QHBoxLayout(), QHBoxLayout()
        above.setSpacing(6)
        above.addWidget(self.name)
        above.addWidget(self.slider, 1)
        above.addWidget(self.value)
        below.setSpacing(6)
        below.addWidget(self.steps, 1)
        below.addWidget(self.back)
        below.addWidget(self.pin)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(above)
        column.addLayout(below)
        column.addWidget(rule())
        self.slider.valueChanged.connect(self._on_slid)
        self.slider.sliderReleased.connect(lambda: self.let_go.emit(self.lever))
        self.pin.toggled.connect(self._on_ticked)

    def show_row(self, row: LeverRow) -> None:
        """Show where the lever stands; a slider that is held is not pulled from under the hand."""
        self._row = row
        self.name.setText(row.name)
        self.value.setText(row.texts[row.at])
        widest = max(self.value.fontMetrics().horizontalAdvance(text) for text in row.texts)
        self.value.setFixedWidth(max(LEAST_VALUE_PX, min(widest + 4, MOST_VALUE_PX)))
        for one in (self.slider, self.pin):
            one.blockSignals(True)
        self.slider.setRange(0, len(row.values) - 1)
        self.slider.setPageStep(max(1, len(row.values) // 8))
        self.slider.asked = row.asked
        self.slider.setValue(row.at)
        self.pin.setChecked(bool(row.allowed) if self.locks else row.pinned)
        for one in (self.slider, self.pin):
            one.blockSignals(False)
        ways = [f"{arrow} {words}" for arrow, words in (("◂", row.down), ("▸", row.up)) if words]
        self.steps.setText(short_steps(ways))
        set_tip(self.slider, "\n".join((LEVER_TIPS[self.lever], *row.not_had)))
        set_tip(self.steps, "One step down (◂) or up (▸): machine-hours, and levels of error\n" + "\n".join(ways))
        self.back.setText(f"asked {row.asked_text}")
        self.back.setVisible(row.at != row.asked)
        said = f"{row.name} {row.texts[row.at]}, asked {row.asked_text}; {'; '.join(ways)}"
        self.slider.setAccessibleName(row.name)
        self.slider.setAccessibleDescription(said)
        self.pin.setAccessibleName(f"{self.pin.text()} {row.name}")
        self.back.setAccessibleName(f"{row.name} as asked")
        self.slider.update()

    def _on_ticked(self, on: bool) -> None:  # noqa: FBT001 - Qt's signal carries it so
        (self.allowed if self.locks else self.pinned).emit(self.lever, on)

    def _on_slid(self, at: int) -> None:
        if self._row is not None and at != self._row.at:
            self.moved.emit(self.lever, self._row.values[at])

    def _to_asked(self) -> None:
        if self._row is not None:
            self.moved.emit(self.lever, self._row.values[self._row.asked])
            self.let_go.emit(self.lever)


def short_steps(ways: list[str]) -> str:
    """Return what both steps do, short enough for one line: what is the same of both is said once."""
    short = [words.partition(" levels")[0].replace(" by eye", "") for words in ways]
    ends = {words.partition(", ")[2] for words in short}
    if len(short) == 2 and len(ends) == 1 and " h" in short[0]:
        return f"{short[0].partition(', ')[0]}   {short[1]}"
    return "   ".join(short)
