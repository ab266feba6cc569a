"""Looks for the best plan, says what was found, and takes it. GUI thread."""

from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QFrame, QVBoxLayout, QWidget

from pemlo.core.project.settings import LeverName
from pemlo.core.trade.levers import lever_name
from pemlo.gui.common.enabling import enable
from pemlo.gui.common.flow import FlowLayout
from pemlo.gui.common.labels import Shortened, button, label
from pemlo.gui.common.plain import set_tip
from pemlo.gui.trade.plan_changes import PlanChangesList
from pemlo.gui.trade.presenter import PlanChanges
from pemlo.gui.trade.trial_card import TrialCard

if TYPE_CHECKING:
    from pemlo.core.trade.required_test import RequiredTest

ALIKE: tuple[LeverName, ...] = ("denoise", "resolution_percent")


class PlanBox(QFrame):
    """The box.

    Signals
    -------
    wanted(str)
        Goal of a plan that is to be looked for.
    adopted()
        The plan that was found is to be taken.
    comparing()
        Kept plans are to be seen.
    trial_wanted(TrialFirst)
        The trial is to be rendered that decides most, where nothing passes.
    """

    wanted = Signal(str)
    adopted = Signal()
    comparing = Signal()
    trial_wanted = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.search = Shortened("Keep the worst error as low as the deadline allows", self._picture)
        self.cheapest = button(
            "cheapest that passes", "The fewest machine-hours with every error within its limit",
            lambda: self.wanted.emit("hours"), link=True,
        )  # fmt: skip
        self.missing = button(
            "what it lacks", "The machine-hours needed to be in time and within every error limit",
            lambda: self.wanted.emit("missing"), link=True,
        )  # fmt: skip
        self.alike = {lever: QCheckBox(f"one {lever_name(lever)}") for lever in ALIKE}
        for box in self.alike.values():
            set_tip(box, "A plan has it alike in all shots")
        self.few = QCheckBox("few settings")
        set_tip(self.few, "Shots are put into groups that share their settings; what that takes more is said")
        self.found = label("", wrap=True)
        self.changes = PlanChangesList()
        self.decides = TrialCard("Its time and its picture go into Trials", needed=False)
        self.decides.wanted.connect(self.trial_wanted)
        self.since = label("", "limit", small=True, wrap=True)
        self.since.setAccessibleName("Changed since the plan was adopted")
        self.take = button("Adopt this plan", "Becomes the plan of every shot; one step to undo", self.adopted.emit)
        self.compare = button(
            "Keep, compare…", "Plans under names of yours, side by side", self.comparing.emit, link=True
        )
        self._lay_out()
        self.show_plan("", None, current=True)
        self.say_since("")
        self.name_deadline("the deadline")

    def _lay_out(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        others = QWidget()
        ways = FlowLayout(others)
        for widget in (label("or", "second"), self.cheapest, self.missing):
            ways.addWidget(widget)
        same_of = QWidget()
        same = FlowLayout(same_of, spacing=6)
        for box in (*self.alike.values(), self.few):
            same.addWidget(box)
        column.addWidget(self.search)
        column.addWidget(others)
        column.addWidget(same_of)
        column.addWidget(self.found)
        column.addWidget(self.decides)
        # The answer and what takes it stand together, above what it changes.
        taking = QWidget()
        row = FlowLayout(taking)
        row.addWidget(self.take)
        row.addWidget(self.compare)
        column.addWidget(taking)
        column.addWidget(self.changes)
        column.addWidget(self.since)

    def _picture(self) -> None:
        self.wanted.emit("picture")

    def name_deadline(self, moment: str) -> None:
        self.search.setText(f"Find the best plan by {moment}")

    @property
    def wanted_alike(self) -> tuple[LeverName, ...]:
        """Levers that are to stand alike in all shots."""
        return tuple(lever for lever, box in self.alike.items() if box.isChecked())

    def say_since(self, words: str) -> None:
        """Say what was changed since a plan was adopted; nothing if nothing was."""
        self.since.setText(words)
        self.since.setVisible(bool(words))

    def show_refusal(self, words: str) -> None:
        """Say why there is no plan to take."""
        self.found.setText(words)
        self.found.setVisible(True)
        self.changes.hide()
        self.decides.hide()
        self.take.hide()

    def show_way_out(self, trial: "RequiredTest | None", *, can_render: bool) -> None:
        """Show the trial that decides most; None where something passes."""
        self.decides.show_trial(trial, "" if trial is None else trial.why, can_render=can_render)

    def show_plan(self, words: str, changes: PlanChanges | None, *, current: bool, adopted: bool = False) -> None:
        """Say what a plan comes to, and what it changes; a plan of an earlier state says so and cannot be taken."""
        self.found.setText(words if current or not words else f"Out of date. Find again: {words}")
        self.found.setVisible(bool(words))
        self.changes.show_changes(changes if current else None)
        self.take.setVisible(bool(words) and current)
        enable(self.take, "The film stands so already." if adopted else "")
        self.take.setText("Same as now" if adopted else "Adopt this plan")
