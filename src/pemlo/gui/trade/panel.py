"""The trade stage as widgets: levers left, what they come to in the middle, look and plan at the right. GUI thread."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from pemlo.app.document import Document
from pemlo.app.film_curve import FilmCurve
from pemlo.app.forecaster import FORECAST, FilmForecast, FittedFilm
from pemlo.app.jobs import Jobs
from pemlo.app.planner import OPTIONS, Found, Planner
from pemlo.core.cost.posterior import Disagreement
from pemlo.core.errors import PemloError
from pemlo.core.farm.money import price_of_hour
from pemlo.core.forecast.disagreement_words import disagreement_headline
from pemlo.core.forecast.sentences import say_moment
from pemlo.core.project.edits import adopt, drop_plan, keep_plan, take_plan
from pemlo.core.project.project import Project
from pemlo.core.project.scenes import scene_of
from pemlo.core.project.settings import LEVERS, LeverName
from pemlo.core.project.shots import Shot
from pemlo.core.project.spelling import settings_words
from pemlo.core.trade import lever_edits
from pemlo.core.trade.levers import lever_name
from pemlo.gui.common.labels import Heading, button, label
from pemlo.gui.trade import presenter
from pemlo.gui.trade.appearance_side import AppearanceSide
from pemlo.gui.trade.film_shares import FilmShares
from pemlo.gui.trade.hours_box import HoursBox
from pemlo.gui.trade.lever_box import LeverBox
from pemlo.gui.trade.plan_box import PlanBox
from pemlo.gui.trade.plans_dialog import PlansDialog
from pemlo.gui.trade.trial_card import TrialCard
from pemlo.gui.trade.waterfall_chart import WaterfallChart

if TYPE_CHECKING:
    pass

BARGAINS, REST_MS = 3, 80
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
        self._apart: tuple[Disagreement, ...] = ()
        self.planner, self.film = planner, FilmCurve(document, jobs, planner)
        self._picked: tuple[str, ...] = ()
        self._gesture = 0
        self._found: Found | None = None
        self._shown: tuple[Project, FittedFilm | None, object] | None = None
        self.boxes = {lever: LeverBox(lever) for lever in LEVERS}
        self.levers_heading = Heading(
            "Levers", button("all as asked", "Put every lever of what is picked back", self._all_as_asked, link=True)
        )
        self.bargains, self.bargains_heading = label("", wrap=True), Heading("Most for least")
        self._bargains_due = QTimer(self)
        self._bargains_due.setSingleShot(True)
        self._bargains_due.setInterval(REST_MS)
        self._bargains_due.timeout.connect(self._show_bargains)
        self.slow = label("", "limit", wrap=True)
        self.more = TrialCard("Then the levers of this shot reach farther", needed=False)
        self.waterfall_heading = Heading("From as asked to plan")
        self.waterfall, self.shares = WaterfallChart(), FilmShares()
        self.hours = HoursBox(planner, self.film)
        self.side = AppearanceSide(jobs, planner)
        self.plan_box = PlanBox()
        self.empty = label("", "second", wrap=True)
        self._lay_out()
        for box in self.boxes.values():
            box.moved.connect(self._on_moved)
            box.pinned.connect(self._on_pinned)
            box.let_go.connect(lambda _: self._let_go())
        self.hours.chart.taken.connect(self._on_taken)
        self.hours.chart.let_go.connect(self._let_go)
        self.hours.turned.connect(self._refresh)
        self.side.turned.connect(self._refresh)
        for card in (self.side.first, self.more):
            card.wanted.connect(self.trial_wanted)
        self.side.ceiling.typed.connect(self._on_typed)
        self.shares.picked.connect(lambda shot: pick((shot,)))
        self.plan_box.wanted.connect(lambda goal: planner.plan(goal, self.plan_box.wanted_alike))
        self.plan_box.adopted.connect(self._on_adopted)
        self.plan_box.comparing.connect(self.compare_plans)
        planner.changed.connect(self._refresh)
        self.film.changed.connect(self._refresh)
        planner.planned.connect(self._on_planned)
        document.replaced.connect(self.forget)
        for ended in (jobs.stopped, jobs.failed):
            ended.connect(self._on_not_done)

    def _lay_out(self) -> None:
        left, middle, right = QFrame(), QFrame(), QFrame()
        for side, width in ((left, LEFT), (right, RIGHT)):
            side.setObjectName("side")
            side.setFixedWidth(width)
        column = self._column(left, self.bargains_heading)
        column.addWidget(self.bargains)
        column.addSpacing(4)
        column.addWidget(self.levers_heading)
        for box in self.boxes.values():
            column.addWidget(box)
        column.addWidget(self.slow)
        column.addWidget(self.more)
        column.addStretch(1)
        column = self._column(middle, self.waterfall_heading)
        column.addWidget(self.waterfall, 5)
        column.addWidget(self.hours, 6)
        column.addWidget(self.shares)
        column = self._column(right, self.side)
        column.addWidget(self.plan_box)
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

    def show_project(self, project: Project, answer: FilmForecast | None) -> None:
        """Show a project, and the forecast that goes with it if there is one."""
        self._apart = () if answer is None else answer.forecast.disagreements
        self._keep_picked(project)
        self.planner.first = self._picked[0] if self._picked else ""
        self.planner.ask(answer)
        # A new forecast from the same fit, of the film that is shown already, changes nothing here.
        known = None if answer is None else answer.known
        waiting = self.planner.weighing, not self.stage.isVisibleTo(self) and self.planner.finding_out
        words = self._picked, self._apart, waiting
        before = self._shown or (None, None, None)
        if project is not before[0] or known is not before[1] or words != before[2]:
            self._refresh()
            self._shown = project, known, words

    def pick(self, names: tuple[str, ...]) -> None:
        """Let the levers move other shots."""
        if names and names != self._picked:
            self._picked = names
            if self.isVisible():
                self._refresh()

    def forget(self) -> None:
        """Forget what was found and chosen for the film that was here before."""
        self._found = self._shown = None
        self.plan_box.show_plan("", (), current=False)
        self.hours.of_film = False
        self.side.forget()

    @property
    def shown_shot(self) -> str:
        """The shot whose levers are shown."""
        shot = self._shot()
        return "" if shot is None else shot.name

    @property
    def shown_settings(self) -> str:
        """Its settings in a few words."""
        shot = self._shot()
        return "" if shot is None else settings_words(shot.settings)

    def _shot(self) -> Shot | None:
        project = self._document.project
        self._keep_picked(project)  # what is found in the background may come before it is heard that a shot is gone
        return project.shot(self._picked[0]) if self._picked else None

    def _keep_picked(self, project: Project) -> None:
        """Let go of shots that are gone; one at least stays picked."""
        names = {shot.name for shot in project.shots}
        self._picked = tuple(name for name in self._picked if name in names)
        if not self._picked and project.shots:
            self._picked = (project.shots[0].name,)

    def _refresh(self) -> None:
        """Show where everything stands."""
        project, shot = self._document.project, self._shot()
        waterfalls = self.planner.numbers.waterfalls()
        known = shot is not None and bool(waterfalls) and self.planner.options_of(shot.name) is not None
        self.stage.setVisible(known)
        self.empty.setVisible(not known)
        self.empty.setText(
            "Weighing what each shot could be …"
            if self.planner.finding_out
            else "What this shot could be is not known: its weighing was stopped, or failed."
            if self.planner.state is not None
            else "Time one frame first: then this stage shows what each lever gives in hours and costs to the eye."
        )
        if not known or shot is None:
            return
        there = self.planner.hours_there()
        ends = [one.hours[-1] for one in waterfalls]
        self.plan_box.name_deadline(say_moment(project.delivery.deadline, project))
        self._show_levers(project, shot)
        self._show_waterfall(there)
        shares = self._shares(project)
        self.hours.show_hours(project, shot, shares, ends, there)
        self.shares.show_shares(shares, self._picked)
        self.side.show_shot(project, shot)
        self._show_plan()

    def _on_not_done(self, key: str) -> None:
        """Say that nothing newer will come of what was stopped, or failed."""
        if key in (FORECAST, OPTIONS):
            self._refresh()

    def _show_levers(self, project: Project, shot: Shot) -> None:
        from pemlo.core.trade.options import levers_of  # noqa: PLC0415 - heavy to load
        from pemlo.core.trade.slow_denoiser import slow_denoiser  # noqa: PLC0415 - as above
        from pemlo.core.trade.trial_first import trials_for_more  # noqa: PLC0415 - as above

        state = self.planner.state
        assert state is not None
        fit, draws = state.known.fit, state.known.draws
        levers = levers_of(project, fit, shot, self.planner.appearance_of(shot.name))
        rows = {row.lever: row for row in presenter.lever_rows(shot, levers, self.planner.numbers.steps_of(shot))}
        for lever, box in self.boxes.items():
            box.setVisible(lever in rows)
            if lever in rows:
                box.show_row(rows[lever])
        anew = ", weighed anew …" if self.planner.weighing else ""
        self.levers_heading.say(presenter.picked_words(project, self._picked) + anew)
        self.bargains_heading.say("…")
        self._bargains_due.start()
        slow = slow_denoiser(project, fit, draws, shot)
        self.slow.setText("" if slow is None else str(slow))
        more = trials_for_more(project, fit, shot, self.planner.appearance_of(shot.name))
        words = presenter.more_words(more[0]) if more else ""
        self.more.show_trial(more[0] if more else None, words, can_render=bool(scene_of(shot)))

    @property
    def waits_for_rest(self) -> bool:
        """Whether something is said only once the hand has rested for a while."""
        return self._bargains_due.isActive()

    def _show_bargains(self) -> None:
        """Show what gives most for least: of all shots, and so only once the hand rests."""
        from pemlo.core.trade.prices import most_for_an_hour, most_for_least  # noqa: PLC0415 - heavy to load

        shots = self._document.project.shots
        steps = [step for one in shots for step in self.planner.numbers.steps_of(one)]
        film_hours = sum(now.middle_hours for one in shots if (now := self.planner.numbers.of(one)) is not None)
        savings = enumerate(most_for_least(steps, BARGAINS, film_hours), 1)
        lines = [presenter.bargain_words(number, step) for number, step in savings]
        lines = lines or [presenter.no_bargain_words(film_hours)]
        left = self.planner.hours_left()
        affordable = [step for step in steps if step.hours <= left]
        lines += [presenter.purchase_words(step) for step in most_for_an_hour(affordable if left > 0 else (), 1)]
        self.bargains.setText("\n".join(lines))
        self.bargains_heading.say("of all shots")

    def _show_waterfall(self, there: float) -> None:
        from pemlo.core.trade.waterfall import film_waterfall  # noqa: PLC0415 - heavy to load

        found = film_waterfall(self.planner.numbers.waterfalls())
        self.waterfall_heading.say(presenter.waterfall_words(found, there))
        self.waterfall.show_bars(presenter.bars(found), there)

    def _shares(self, project: Project) -> list[presenter.Share]:
        shares = []
        for shot in project.shots:
            options, now = self.planner.options_of(shot.name), self.planner.numbers.of(shot)
            if options is not None and now is not None:
                shares.append(presenter.share(options, now))
        return shares

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
            lambda project: lever_edits.set_lever(project, names, lever, value),
        )

    def _on_pinned(self, lever: LeverName, on: bool) -> None:  # noqa: FBT001 - Qt's signal carries it so
        names = self._picked
        self._let_go()
        words = f"{'Hold' if on else 'Free'} {lever_name(lever)}"
        self._edit(words, lambda project: lever_edits.set_pin(project, names, lever, on=on))

    def _all_as_asked(self) -> None:
        names = self._picked
        self._let_go()
        self._edit("Put levers back", lambda project: lever_edits.as_asked(project, names))

    def _on_typed(self, field: str, text: str) -> None:
        names = self._picked
        self._let_go()
        self._edit(f"Set {field} of {names[0]}", lambda project: lever_edits.set_field(project, names, field, text))

    def _on_taken(self, place: int) -> None:
        if self.hours.of_film:
            chosen = self.film.settings_of(place)
            self._edit("Take a plan of the film", lambda project: adopt(project, chosen))
            return
        shot = self._shot()
        options = None if shot is None else self.planner.options_of(shot.name)
        if shot is None or options is None:
            return
        settings = options.settings[place]
        self._edit(f"Take an option of {shot.name}", lambda project: lever_edits.take(project, shot.name, settings))

    # The plan

    def _on_planned(self, found: Found) -> None:
        self._found = found
        self._show_plan()

    def _show_plan(self) -> None:
        if self._found is None:
            return
        if self._apart:
            self.plan_box.show_refusal(f"{disagreement_headline(self._apart)} No plan holds until they do.")
            return
        current = self.planner.is_current(self._found)
        project = self._found.project
        words = presenter.plan_words(self._found.plan, project.delivery.confidence, price_of_hour(project.machines))
        changes = presenter.change_lines(self._found.plan, project, MOST_CHANGES)
        self.plan_box.show_plan(words, changes, current=current)

    def _on_adopted(self) -> None:
        if self._found is None or self._apart or not self.planner.is_current(self._found):
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
