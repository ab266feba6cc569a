"""The trade stage as widgets: levers left, what they come to in the middle, look and plan at the right. GUI thread."""

from collections.abc import Callable
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from pemlo.app.document import Document
from pemlo.app.film_curve import FilmCurve
from pemlo.app.forecaster import Answer
from pemlo.app.jobs import Jobs
from pemlo.app.planner import Found, Planner
from pemlo.core.arrays import Floats
from pemlo.core.errors import PemloError
from pemlo.core.farm.money import price_of_hour
from pemlo.core.forecast.sentences import say_moment
from pemlo.core.plan.edits import drop_plan, keep_plan, take_plan
from pemlo.core.plan.project import Project
from pemlo.core.plan.scenes import scene_of
from pemlo.core.plan.settings import LEVERS, LeverName, ShotSettings
from pemlo.core.plan.shots import Shot
from pemlo.core.plan.trials import GOOD
from pemlo.core.trade.levers import lever_name
from pemlo.core.trade.planning import adopt
from pemlo.core.trade.room import room_of, too_small
from pemlo.gui.common.labels import Heading, button, label
from pemlo.gui.trade import frontiers, presenter
from pemlo.gui.trade.ceiling_row import CeilingRow
from pemlo.gui.trade.error_bar import ErrorBar
from pemlo.gui.trade.fall_chart import FallChart
from pemlo.gui.trade.film_shares import FilmShares
from pemlo.gui.trade.first_card import FirstCard
from pemlo.gui.trade.frontier_chart import FrontierChart
from pemlo.gui.trade.lever_box import LeverBox
from pemlo.gui.trade.look_view import LookView
from pemlo.gui.trade.plan_box import PlanBox
from pemlo.gui.trade.plans_dialog import PlansDialog

if TYPE_CHECKING:
    from pemlo.core.trade.options import Numbers
    from pemlo.core.trade.shot_look import ShotLook

BARGAINS = 3
MOST_CHANGES = 8
LEFT, RIGHT = 300, 300


class TradePanel(QWidget):
    """The stage.

    Attributes
    ----------
    planner : Planner
        Knows what each shot could be.

    Signals
    -------
    trial_wanted(TrialFirst)
        A trial to be rendered, without which something cannot be weighed.
    """

    trial_wanted = Signal(object)

    def __init__(
        self, document: Document, jobs: Jobs, planner: Planner, report: Callable[[PemloError], None],
        pick: Callable[[tuple[str, ...]], None],
    ) -> None:  # fmt: skip
        super().__init__()
        self._document, self._report = document, report
        self.planner, self.film = planner, FilmCurve(document, jobs, planner)
        self._picked: tuple[str, ...] = ()
        self._gesture = 0
        self._found: Found | None = None
        self.boxes = {lever: LeverBox(lever) for lever in LEVERS}
        self.levers_heading = Heading(
            "Levers", button("all as asked", "Put every lever of what is picked back", self._all_as_asked, link=True)
        )
        self.bargains = label("", wrap=True)
        self.slow = label("", "limit", wrap=True)
        self.fall_heading = Heading("From as asked to plan")
        self.fall, self.frontier, self.shares = FallChart(), FrontierChart(), FilmShares()
        self.scopes = {
            "shot": button("this shot", "What hours buy on the shot that is picked", self._show_shot_line, link=True),
            "film": button("the film", "The best plans of the whole film; drag along them", self._show_film, link=True),
        }
        self.frontier_heading = Heading("What the hours buy", *self.scopes.values())
        self._of_film = False
        self.look = LookView(jobs)
        self.look_heading = Heading("Predicted look")
        self.error, self.error_bar, self.ceiling = label("", wrap=True), ErrorBar(), CeilingRow()
        self.room, self.first = label("", "second", wrap=True), FirstCard()
        self.plan_box = PlanBox()
        self.empty = label("", "second", wrap=True)
        self._lay_out()
        for box in self.boxes.values():
            box.moved.connect(self._on_moved)
            box.pinned.connect(self._on_pinned)
            box.let_go.connect(lambda _: self._let_go())
        self.frontier.taken.connect(self._on_taken)
        self.frontier.let_go.connect(self._let_go)
        self.first.wanted.connect(self.trial_wanted)
        self.ceiling.typed.connect(self._on_typed)
        self.shares.picked.connect(lambda shot: pick((shot,)))
        self.plan_box.wanted.connect(lambda goal: planner.plan(goal, self.plan_box.wanted_alike))
        self.plan_box.adopted.connect(self._on_adopted)
        self.plan_box.comparing.connect(self.compare_plans)
        planner.changed.connect(self._refresh)
        self.film.changed.connect(self._refresh)
        planner.planned.connect(self._on_planned)

    def _lay_out(self) -> None:
        left, middle, right = QFrame(), QFrame(), QFrame()
        for side, width in ((left, LEFT), (right, RIGHT)):
            side.setObjectName("side")
            side.setFixedWidth(width)
        column = self._column(left, label("Most for least", "title"))
        column.addWidget(self.bargains)
        column.addSpacing(4)
        column.addWidget(self.levers_heading)
        for box in self.boxes.values():
            column.addWidget(box)
        column.addWidget(self.slow)
        column.addStretch(1)
        column = self._column(middle, self.fall_heading)
        column.addWidget(self.fall, 5)
        column.addWidget(self.frontier_heading)
        column.addWidget(self.frontier, 6)
        column.addWidget(self.shares)
        column = self._column(right, self.look_heading)
        column.addWidget(self.look)
        rest: tuple[QWidget, ...] = (self.error, self.error_bar, self.first, self.ceiling, self.room, self.plan_box)
        for one in rest:
            column.addWidget(one)
        column.addStretch(1)
        self.stage = QWidget()
        row = QHBoxLayout(self.stage)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(_scrolled(left))
        row.addWidget(middle, 1)
        row.addWidget(_scrolled(right))
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        self.empty.setContentsMargins(24, 20, 24, 20)
        self.empty.setAlignment(Qt.AlignmentFlag.AlignTop)
        whole.addWidget(self.empty)
        whole.addWidget(self.stage, 1)

    @staticmethod
    def _column(frame: QFrame, heading: QWidget) -> QVBoxLayout:
        column = QVBoxLayout(frame)
        column.setContentsMargins(14, 10, 14, 8)
        column.setSpacing(4)
        column.addWidget(heading)
        return column

    # What is shown

    def show_project(self, project: Project, answer: Answer | None) -> None:
        """Show a project, and the forecast that goes with it if there is one."""
        self._picked = tuple(name for name in self._picked if any(shot.name == name for shot in project.shots))
        if not self._picked and project.shots:
            self._picked = (project.shots[0].name,)
        self.planner.ask(answer)
        self._refresh()

    def pick(self, names: tuple[str, ...]) -> None:
        """Let the levers move other shots."""
        if names and names != self._picked:
            self._picked = names
            if self.isVisible():
                self._refresh()

    def _shot(self) -> Shot | None:
        project = self._document.project
        return project.shot(self._picked[0]) if self._picked else None

    def _refresh(self) -> None:
        """Show where everything stands."""
        project, shot = self._document.project, self._shot()
        falls = self.planner.falls()
        known = shot is not None and bool(falls) and self.planner.options_of(shot.name) is not None
        self.stage.setVisible(known)
        self.empty.setVisible(not known)
        self.empty.setText(
            "Weighing what each shot could be …"
            if self.planner.answer is not None
            else "Time one frame first: then this stage shows what each lever gives in hours and costs to the eye."
        )
        if not known or shot is None:
            return
        there = self._there()
        ends = [one.hours[-1] for one in falls]
        self.plan_box.name_deadline(say_moment(project.delivery.deadline, project))
        self._show_levers(project, shot)
        self._show_fall(there)
        self._show_frontier(project, shot, ends, there)
        self._show_shares(project)
        self._show_look(shot)
        self._show_plan()

    def _there(self) -> float:
        answer = self.planner.answer
        return 0.0 if answer is None else answer.forecast.hours_available

    def _show_levers(self, project: Project, shot: Shot) -> None:
        from pemlo.core.trade.options import levers_of  # noqa: PLC0415 - heavy to load
        from pemlo.core.trade.prices import most_for_least  # noqa: PLC0415 - as above
        from pemlo.core.trade.slow_denoiser import slow_denoiser  # noqa: PLC0415 - as above

        answer, options = self.planner.answer, self.planner.options_of(shot.name)
        assert answer is not None
        assert options is not None
        levers = levers_of(project, answer.known.fit, shot, self.planner.look_of(shot.name))
        rows = {row.lever: row for row in presenter.lever_rows(shot, levers, self.planner.steps_of(shot))}
        for lever, box in self.boxes.items():
            box.setVisible(lever in rows)
            if lever in rows:
                box.show_row(rows[lever])
        anew = ", weighed anew …" if self.planner.weighing else ""
        self.levers_heading.say(presenter.picked_words(project, self._picked) + anew)
        steps = most_for_least((step for one in project.shots for step in self.planner.steps_of(one)), BARGAINS)
        lines = (presenter.bargain_words(number, step) for number, step in enumerate(steps, 1))
        slow = slow_denoiser(project, answer.known.fit, answer.known.draws, shot)
        self.slow.setText("" if slow is None else str(slow))
        self.bargains.setText("\n".join(lines) or "Nothing saves hours from here with what is known.")

    def _show_fall(self, there: float) -> None:
        from pemlo.core.trade.fall import film_fall  # noqa: PLC0415 - heavy to load

        found = film_fall(self.planner.falls())
        self.fall_heading.say(presenter.fall_words(found, there))
        self.fall.show_bars(presenter.bars(found), there)

    def _show_shot_line(self) -> None:
        self._of_film = False
        self._refresh()

    def _show_film(self) -> None:
        self._of_film = True
        self._refresh()

    def _show_film_frontier(self, project: Project, ends: list[Floats], there: float) -> None:
        self.film.ask()
        shares = self._shares(project)
        points = self.film.points
        if not points or len(shares) < len(project.shots):
            self.frontier_heading.say("of the film: not known yet")
            self.frontier.show_frontier(None, {})
            return
        self.frontier_heading.say("of the film; drag along the best")
        total = np.sum(ends, axis=0)
        needed = float(np.quantile(total, project.delivery.confidence))
        left = there * float(np.median(total)) / max(needed, 1e-9)
        asked = [(one.asked_hours, one.asked_ratio) for one in shares]
        now = [(one.hours, one.ratio) for one in shares]
        self.frontier.show_frontier(frontiers.film_of(points, asked, now, left), frontiers.film_words(points))

    def _marked(self, project: Project, shot: Shot) -> tuple[frontiers.MarkedPoint, ...]:
        found = []
        for trial in project.trials_of(shot.name):
            if trial.mark and trial.error is not None:
                as_shot = shot.changed(plan=ShotSettings.model_validate(trial.frame_fields()))
                numbers = self.planner.numbers_of(as_shot)
                if numbers is not None:
                    words = f"frame {trial.frame}, {presenter.settings_text(as_shot.settings)}: {trial.mark}"
                    passed = trial.mark == GOOD
                    found.append(frontiers.MarkedPoint(numbers.middle_hours, trial.error, passed, words))
        return tuple(found)

    def _show_frontier(self, project: Project, shot: Shot, ends: list[Floats], there: float) -> None:
        for scope, link in self.scopes.items():
            link.setEnabled(self._of_film != (scope == "film"))
        if self._of_film:
            self._show_film_frontier(project, ends, there)
            return
        options, now = self.planner.options_of(shot.name), self.planner.numbers_of(shot)
        assert options is not None
        assert now is not None
        self.frontier_heading.say(f"each dot a way to render {shot.name}")
        if not options.known or len(options.settings) < 3:
            self.frontier_heading.say("no picture tells its look")
            self.frontier.show_frontier(None, {})
            return
        number = next(k for k, one in enumerate(project.shots) if one.name == shot.name)
        left = frontiers.hours_left(ends, number, there, project.delivery.confidence)
        shown = frontiers.frontier_of(options, now, left, self._marked(project, shot))
        self.frontier.show_frontier(shown, presenter.option_words(options))

    def _show_shares(self, project: Project) -> None:
        self.shares.show_shares(self._shares(project), self._picked)

    def _shares(self, project: Project) -> list[presenter.Share]:
        shares = []
        for shot in project.shots:
            options, now = self.planner.options_of(shot.name), self.planner.numbers_of(shot)
            if options is not None and now is not None:
                shares.append(presenter.share(options, now))
        return shares

    def _show_look(self, shot: Shot) -> None:
        options, now = self.planner.options_of(shot.name), self.planner.numbers_of(shot)
        look = self.planner.look_of(shot.name)
        assert options is not None
        found = None if now is None else now.found
        self.look_heading.say(f"{shot.name}, frame {look.frame}, worst spot" if look is not None else shot.name)
        words = "" if found is None else f"error {found.total.value:.1f} codes"
        self.look.show_look(
            look, shot.settings, np.nan if now is None else now.spent, words, self.planner.trouble_of(shot.name)
        )
        self.error.setText(presenter.error_words(now, options.ceiling, options.ceiling_from))
        self.error_bar.show_error(found, options.ceiling)
        self.ceiling.show_shot(shot)
        self._show_first(shot, look, now)
        room = room_of(self._document.project, shot, shot.settings)
        small = () if room.memory_gib is None else too_small(self._document.project, room.memory_gib)
        self.room.setText(presenter.room_words(room, small))

    def _show_first(self, shot: Shot, look: "ShotLook | None", now: "Numbers | None") -> None:
        from pemlo.core.trade.trial_first import trial_first, trials_for_more  # noqa: PLC0415 - heavy to load

        project, answer = self._document.project, self.planner.answer
        if answer is None or now is None:
            return
        first = trial_first(project, shot, look, now)
        more = trials_for_more(project, answer.known.fit, shot, look)
        self.first.show_trials(first, more, can_render=bool(scene_of(shot)))

    # Hands

    def _let_go(self) -> None:
        self._gesture += 1

    def _edit(self, text: str, change: Callable[[Project], Project]) -> None:
        try:
            self._document.edit(text, change, f"{text} {self._gesture}")
        except PemloError as error:
            self._report(error)
            self._refresh()

    def _on_moved(self, lever: LeverName, value: object) -> None:
        names = self._picked
        where = names[0] if len(names) == 1 else f"{len(names)} shots"
        self._edit(
            f"Move {lever_name(lever)} of {where}",
            lambda project: presenter.set_lever(project, names, lever, value),
        )

    def _on_pinned(self, lever: LeverName, on: bool) -> None:  # noqa: FBT001 - Qt's signal carries it so
        names = self._picked
        self._let_go()
        words = f"{'Hold' if on else 'Free'} {lever_name(lever)}"
        self._edit(words, lambda project: presenter.set_pin(project, names, lever, on=on))

    def _all_as_asked(self) -> None:
        names = self._picked
        self._let_go()
        self._edit("Put levers back", lambda project: presenter.as_asked(project, names))

    def _on_typed(self, field: str, text: str) -> None:
        names = self._picked
        self._let_go()
        self._edit(f"Set {field} of {names[0]}", lambda project: presenter.set_field(project, names, field, text))

    def _on_taken(self, place: int) -> None:
        if self._of_film:
            chosen = self.film.settings_of(place)
            self._edit("Take a plan of the film", lambda project: adopt(project, chosen))
            return
        shot = self._shot()
        options = None if shot is None else self.planner.options_of(shot.name)
        if shot is None or options is None:
            return
        settings = options.settings[place]
        self._edit(f"Take an option of {shot.name}", lambda project: presenter.take(project, shot.name, settings))

    # The plan

    def _on_planned(self, found: Found) -> None:
        self._found = found
        self._show_plan()

    def _show_plan(self) -> None:
        if self._found is None:
            return
        current = self.planner.is_current(self._found)
        project = self._found.project
        words = presenter.plan_words(self._found.plan, project.delivery.confidence, price_of_hour(project.machines))
        changes = presenter.change_lines(self._found.plan, project, MOST_CHANGES)
        self.plan_box.show_plan(words, changes, current=current)

    def _on_adopted(self) -> None:
        if self._found is None or not self.planner.is_current(self._found):
            return
        settings = self._found.plan.settings()
        self._let_go()
        self._edit("Adopt the plan", lambda project: adopt(project, settings))

    def compare_plans(self) -> None:
        """Show kept plans side by side."""

        def edit(text: str, change: Callable[[Project, str], Project]) -> Callable[[str], None]:
            def act(name: str) -> None:
                self._let_go()
                self._edit(f"{text} “{name}”", lambda project: change(project, name))

            return act

        dialog = PlansDialog(
            self,
            self.planner.compare,
            edit("Keep plan", keep_plan),
            edit("Take plan", take_plan),
            edit("Drop plan", drop_plan),
        )
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.open()


def _scrolled(inside: QFrame) -> QScrollArea:
    area = QScrollArea()
    area.setWidget(inside)
    area.setWidgetResizable(True)
    area.setFixedWidth(inside.maximumWidth())
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    return area
