"""The card for the next trial to run: which, why, and a place for its time when it is done. GUI thread."""

from collections.abc import Callable

from PySide6.QtCore import Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QComboBox, QFrame, QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from pemlo.core.cost.next_trial import Advice
from pemlo.core.errors import PemloError
from pemlo.core.project.machines import Machine
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.trials import Trial
from pemlo.core.units import parse_duration
from pemlo.gui.common.enabling import enable
from pemlo.gui.common.flow import FlowLayout
from pemlo.gui.common.labels import button, label
from pemlo.gui.common.plain import set_tip
from pemlo.gui.trials.presenter import advice_words


class NextCard(QFrame):
    """Shows one advice of several.

    Signals
    -------
    timed(Trial)
        The advised trial with the time that was typed.
    shown()
        The advice that is shown may be another one now.
    shot_wanted(str)
        Somebody asked for another advice, and it is of this shot.
    render_wanted(Advice)
        The advised trial is to be rendered here.
    """

    timed = Signal(object)
    shown = Signal()
    shot_wanted = Signal(str)
    render_wanted = Signal(object)

    def __init__(self, report: Callable[[PemloError], None]) -> None:
        super().__init__()
        self.setObjectName("card")
        self._report = report
        self._advice: tuple[Advice, ...] = ()
        self._place = 0
        self._known = self._has_shots = False
        self._rendered_here: frozenset[str] = frozenset()
        self._why_not: Callable[[str, FrameSettings], str] = lambda *_: ""
        self._title = label("Time this next", "title")
        self.what = label("", wrap=True)
        self.why = label("", "second", wrap=True)
        self._open = button(
            "Type its time", "Type what this frame took, when you have rendered it", self._on_open, main=True
        )
        self.render_it = button("Render it", "Render this frame now, by your own command", self._on_render, main=True)
        self._another = button("another", "Show the next best trial, of another shot", self._on_another, link=True)
        self.entry = QWidget()
        self.time = QLineEdit()
        self.time.setPlaceholderText("4:02")
        self.time.setAccessibleName("Time of the advised trial")
        set_tip(self.time, "What the frame took: 4:02, 4m02, 242 or 1h03")
        self.time.returnPressed.connect(self._on_add)
        self.machine = QComboBox()
        self.machine.setAccessibleName("Machine that ran it")
        set_tip(self.machine, "Machine that ran it")
        self._lay_out()
        self.entry.hide()
        self.show_advice((), (), "", known=False)

    def _lay_out(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 10, 12, 10)
        column.setSpacing(4)
        for one in (self._title, self.what, self.why):
            column.addWidget(one)
        line = QHBoxLayout(self.entry)
        line.setContentsMargins(0, 0, 0, 0)
        line.addWidget(self.time, 2)
        line.addWidget(self.machine, 2)
        line.addWidget(button("Add its time", "Add this trial with the time that you typed", self._on_add, main=True))
        row = QHBoxLayout()
        row.addWidget(self.render_it)
        row.addWidget(self._open)
        row.addWidget(self._another)
        row.addStretch(1)
        links = QWidget()
        self._links = FlowLayout(links)
        column.addStretch(1)
        column.addWidget(self.entry)
        column.addLayout(row)
        column.addWidget(links)

    @property
    def advice(self) -> Advice | None:
        return self._advice[self._place] if self._advice else None

    def add_links(self, *links: QPushButton) -> None:
        """Put more that can be done below."""
        for link in links:
            self._links.addWidget(link)

    @property
    def all_advice(self) -> tuple[Advice, ...]:
        """The advice of all shots, the most telling first."""
        return self._advice

    def can_render(self, shots: frozenset[str], why_not: Callable[[str, FrameSettings], str]) -> None:
        """Say which shots can be rendered here, and of settings why not."""
        self._rendered_here, self._why_not = shots, why_not
        self._show_render()

    def _show_render(self) -> None:
        advice = self.advice
        self.render_it.setVisible(advice is not None and advice.shot in self._rendered_here)
        if advice is not None and advice.shot in self._rendered_here:
            enable(self.render_it, self._why_not(advice.shot, advice.settings))

    def show_advice(self, advice: tuple[Advice, ...], machines: tuple[Machine, ...], shot: str, *, known: bool) -> None:
        """Take advice, the most telling first, and show the one of a shot if there is one."""
        before = self.advice
        self._advice, self._known, self._has_shots = advice, known, bool(shot)
        self._place = next((number for number, one in enumerate(advice) if one.shot == shot), 0)
        if before is not None and self.entry.isVisibleTo(self):
            # Somebody is typing the time of a trial: keep it before their eyes.
            kept = [n for n, one in enumerate(advice) if (one.shot, one.frame) == (before.shot, before.frame)]
            self._place = kept[0] if kept else self._place
        names = ["", *(machine.name for machine in machines)]
        if [self.machine.itemData(n) for n in range(self.machine.count())] != names:
            self.machine.clear()
            for name in names:
                self.machine.addItem(name or "reference machine", name)
        self._show()

    def show_shot(self, shot: str) -> None:
        """Show the advice for a shot, if there is any."""
        for number, advice in enumerate(self._advice):
            if advice.shot == shot:
                self._place = number
                self._show()
                return

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._need_height()

    def _need_height(self) -> None:
        """Take as much as the words need in this width: what stands around gives way."""
        layout = self.layout()
        if layout is not None:
            self.setMinimumHeight(layout.totalHeightForWidth(self.width()))

    def _show(self) -> None:
        advice = self.advice
        if advice is None:
            looking = self._has_shots
            self.what.setText("Looking for the trial that tells most." if looking else "Nothing to advise yet.")
            self.why.setText("" if looking else "Add a shot in the brief first.")
        else:
            what, why = advice_words(advice, known=self._known)
            self.what.setText(what)
            self.why.setText(why)
        why = "The trial is being looked for." if self._has_shots else "Add a shot in the brief first."
        enable(self._open, "" if advice is not None else why)
        self._show_render()
        self._another.setVisible(len(self._advice) > 1)
        self._need_height()
        self.shown.emit()

    def _on_another(self) -> None:
        self._place = (self._place + 1) % len(self._advice)
        self._show()
        self.shot_wanted.emit(self._advice[self._place].shot)

    def _on_render(self) -> None:
        if self.advice is not None:
            self.render_wanted.emit(self.advice)

    def _on_open(self) -> None:
        self.entry.show()
        self._open.hide()
        self.time.setFocus()

    def _on_add(self) -> None:
        advice = self.advice
        if advice is None:
            return
        try:
            seconds = parse_duration(self.time.text())
        except PemloError as error:
            self._report(error)
            return
        machine = str(self.machine.currentData() or "")
        fields = {**advice.settings.frame_fields(), "shot": advice.shot, "frame": advice.frame}
        self.time.clear()
        self.entry.hide()
        self._open.show()
        self.timed.emit(Trial.model_validate({**fields, "seconds": seconds, "machine": machine}))
