"""The trade stage as widgets: what to do at the left, what it comes to in the middle, look and levers at the right.

GUI thread.
"""

from collections.abc import Callable

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from pemlo.app.document import Document
from pemlo.app.film_curve import FilmCurve
from pemlo.app.film_known import FilmForecast
from pemlo.app.film_work import FORECAST, MANY_SHOTS, SOON_MS
from pemlo.app.jobs import Jobs
from pemlo.app.planner import OPTIONS, Planner
from pemlo.app.selection import Selection
from pemlo.core.errors import PemloError
from pemlo.core.project.project import Project
from pemlo.core.project.scenes import scene_of
from pemlo.core.project.settings import CHARACTER, LEVERS
from pemlo.core.project.shots import Shot
from pemlo.core.project.spelling import settings_words
from pemlo.core.units import round_figures
from pemlo.gui.common.empty_state import lay_out_empty
from pemlo.gui.common.labels import Heading, button, label, rule
from pemlo.gui.trade import presenter
from pemlo.gui.trade.appearance_side import AppearanceSide
from pemlo.gui.trade.film_shares import FilmShares
from pemlo.gui.trade.hours_box import HoursBox
from pemlo.gui.trade.lever_box import CharacterHeading, LeverBox
from pemlo.gui.trade.manual_estimate_row import ManualEstimateRow
from pemlo.gui.trade.plan_box import PlanBox
from pemlo.gui.trade.plan_side import PlanSide
from pemlo.gui.trade.quick_wins import QuickWins
from pemlo.gui.trade.trade_edits import TradeEdits
from pemlo.gui.trade.trial_card import TrialCard
from pemlo.gui.trade.two_ways_card import TwoWaysCard
from pemlo.gui.trade.waterfall_chart import WaterfallChart
from pemlo.words.verdicts import say_moment

LOW_CHART, MOST_HEIGHT = 104, 16_777_215
LEFT, MIDDLE, RIGHT = (256, 460), (300, 16_777_215), (284, 620)  # least and most px of the columns
EMPTY = (
    "Time one frame first. Then the best plan by the deadline stands here at the left, in the middle the fall from as "
    "asked to the plan, and at the right the levers with what each gives in hours and costs to the eye."
)


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
    trials_wanted()
        A first time is to be typed.
    """

    trial_wanted = Signal(object)
    trials_wanted = Signal()

    def __init__(
        self, document: Document, jobs: Jobs, selection: Selection, planner: Planner,
        report: Callable[[PemloError], None],
    ) -> None:  # fmt: skip
        super().__init__()
        self._document = document
        self.planner, self.film = planner, FilmCurve(jobs, planner)
        self.edits = TradeEdits(document, selection, report, self._refresh)
        self._shown: tuple[Project, object, object] | None = None
        self._available_h = ""
        self._film_hours = 0.0
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(SOON_MS)
        self._soon.timeout.connect(self._on_soon)
        self.boxes = {lever: LeverBox(lever) for lever in LEVERS}
        self.levers_heading = Heading(
            "Levers",
            button("all as asked", "Put every lever of what is picked back", self.edits.all_as_asked, link=True),
        )
        self.character_heading = CharacterHeading()
        self.character_heading.wanted.connect(lambda on: self.edits.allow_all(on=on))
        self.bargains = QuickWins(planner)
        self.bargains.wanted.connect(self.edits.take_steps)
        self.paper = ManualEstimateRow()
        self.paper.wanted.connect(
            lambda settings, takes: self.paper.clear() if self.edits.guess(settings, takes) else None
        )
        self.slow = label("", "limit", wrap=True)
        self.more = TrialCard("This unlocks more settings for this shot", needed=False)
        self.waterfall_heading = Heading("From as asked to plan")
        self.waterfall, self.shares = WaterfallChart(), FilmShares()
        self.hours = HoursBox(planner, self.film, TwoWaysCard(document, jobs, planner, report))
        self.side = AppearanceSide(jobs, planner)
        self.plan_box = PlanBox()
        self.plan = PlanSide(document, planner, self.edits, self.plan_box)
        self.empty = label("", "second", wrap=True)
        self.begin = button(
            "Type a time in Trials", "Opens Trials, where the first time is typed", self.trials_wanted.emit
        )
        self.nothing = QWidget()
        self._lay_out()
        self._connect(document, jobs, selection, planner)

    def _connect(self, document: Document, jobs: Jobs, selection: Selection, planner: Planner) -> None:
        for box in self.boxes.values():
            box.moved.connect(self.edits.move)
            box.pinned.connect(self.edits.pin)
            box.allowed.connect(self.edits.allow)
            box.let_go.connect(lambda _: self.edits.let_go())
        self.hours.chart.taken.connect(self._on_taken)
        self.hours.chart.let_go.connect(self.edits.let_go)
        self.hours.turned.connect(self._refresh)
        self.side.turned.connect(self._refresh)
        for card in (self.side.first, self.more):
            card.wanted.connect(self.trial_wanted)
        self.side.ceiling.typed.connect(self.edits.type)
        self.side.by_eye.marked.connect(self.edits.mark)
        self.shares.picked.connect(lambda shot: selection.pick((shot,)))
        self.plan_box.trial_wanted.connect(self.trial_wanted)
        planner.changed.connect(self._refresh)
        self.film.changed.connect(self._refresh)
        document.replaced.connect(self.forget)
        for ended in (jobs.stopped, jobs.failed):
            ended.connect(self._on_not_done)

    def _lay_out(self) -> None:
        decide, middle, shot = QFrame(), QFrame(), QFrame()
        for side in (decide, shot):
            side.setObjectName("side")
        column = self._column(decide, self.plan_box)
        column.addWidget(rule())
        column.addWidget(self.bargains)
        column.addStretch(1)
        column = self._column(middle, self.waterfall_heading)
        column.addWidget(self.waterfall, 5)
        column.addWidget(self.hours, 6)
        column.addWidget(self.shares)
        column = self._column(shot, self.side)
        column.addSpacing(4)
        column.addWidget(self.levers_heading)
        for lever, box in self.boxes.items():
            if lever not in CHARACTER:
                column.addWidget(box)
        column.addWidget(self.character_heading)
        for lever in CHARACTER:
            column.addWidget(self.boxes[lever])
        for widget in (self.slow, self.more, self.paper):
            column.addWidget(widget)
        column.addStretch(1)
        self.stage = QWidget()
        row = QHBoxLayout(self.stage)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        for place, stretch, limits in ((_scrolled(decide), 4, LEFT), (middle, 6, MIDDLE), (_scrolled(shot), 4, RIGHT)):
            place.setMinimumWidth(limits[0])
            place.setMaximumWidth(limits[1])
            row.addWidget(place, stretch)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        lay_out_empty(self.nothing, self.empty, self.begin, "levers")
        whole.addWidget(self.nothing, 1)
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
        self.plan.apart = () if answer is None else answer.forecast.disagreements
        self.planner.first = self.shown_shot
        shown = None if self._shown is None else self._shown[0]
        many = len(project.shots) >= MANY_SHOTS and self.stage.isVisibleTo(self)
        if many and shown is not None and (project is not shown or self.waits):
            # A hand may be moving a shot: what is said of all of them waits for a moment.
            self._show_moved(project)
            self._soon.start()
        else:
            self._show_known(project)

    @property
    def waits(self) -> bool:
        """Whether what is said of the whole film follows in a moment."""
        return self._soon.isActive()

    def _on_soon(self) -> None:
        self._shown = None  # only a part was shown anew since
        self._show_known(self._document.project)

    def _show_known(self, project: Project) -> None:
        self._soon.stop()
        self.planner.ask()
        # A new forecast from the same fit, of the film that is shown already, changes nothing here.
        fitted = self.planner.state.known
        fit = None if fitted is None else fitted.fit
        waiting = self.planner.weighing, not self.stage.isVisibleTo(self) and self.planner.finding_out
        words = self.edits.picked, self.plan.apart, waiting
        before = self._shown or (None, None, None)
        if project is not before[0] or fit is not before[1] or words != before[2]:
            self._refresh()
            self._shown = project, fit, words
        elif self.stage.isVisibleTo(self) and round_figures(self.planner.hours_available_of()) != self._available_h:
            self._show_waterfall(self.planner.hours_available_of())  # an exact run of the same film has come in

    def pick(self, names: tuple[str, ...]) -> None:
        """Let the levers move other shots."""
        if names and self.isVisible():
            self._refresh()

    def forget(self) -> None:
        """Forget what was found and chosen for the film that was here before."""
        self._shown = None
        self.plan.forget()
        self.hours.scope = "shot"
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
        picked = self.edits.picked
        return self._document.project.shot(picked[0]) if picked else None

    def _show_moved(self, project: Project) -> None:
        """Show where the levers of the picked shot stand, and what they cost and give."""
        shot = self._shot()
        if shot is not None and self.planner.options_of(shot.name) is not None:
            self._show_levers(project, shot)
            self.side.show_shot(project, shot)

    def _refresh(self) -> None:
        """Show where everything stands."""
        project, shot = self._document.project, self._shot()
        waterfalls = self.planner.numbers.waterfalls()
        known = shot is not None and bool(waterfalls) and self.planner.options_of(shot.name) is not None
        self.stage.setVisible(known)
        self.nothing.setVisible(not known)
        self.begin.setVisible(not known and self.planner.state.known is None and not self.planner.finding_out)
        self.empty.setText(
            "Weighing what each shot could be …"
            if self.planner.finding_out
            else "What this shot could be is not known: its weighing was stopped, or failed."
            if self.planner.state.known is not None
            else EMPTY
        )
        if not known or shot is None:
            return
        available_h = self.planner.hours_available_of()
        ends = [shot_waterfall.hours[-1] for shot_waterfall in waterfalls]
        self.plan_box.name_deadline(say_moment(project.delivery.deadline, project))
        self._film_hours = float(sum(fall.middle[-1] for fall in waterfalls))
        self._show_levers(project, shot)
        self.bargains.show_soon()
        self._show_waterfall(available_h)
        shares = self._shares(project)
        self.hours.show_hours(project, shot, shares, ends, available_h)
        # Two ways side by side need the room of charts; the strip above has the shots, too.
        two_ways = self.hours.ways.isVisibleTo(self)
        self.shares.setVisible(not two_ways)
        self.waterfall.setMaximumHeight(LOW_CHART if two_ways else MOST_HEIGHT)
        self.shares.show_shares(shares, self.edits.picked)
        self.side.show_shot(project, shot)
        self.plan.show()

    def _on_not_done(self, key: str) -> None:
        """Say that nothing newer will come of what was stopped, or failed."""
        if key in (FORECAST, OPTIONS):
            self._refresh()

    def _show_levers(self, project: Project, shot: Shot) -> None:
        from pemlo.core.trade.options import levers_of  # noqa: PLC0415 - heavy to load
        from pemlo.core.trade.required_test import trials_for_more  # noqa: PLC0415 - as above
        from pemlo.words.slow_denoiser import slow_denoiser  # noqa: PLC0415 - as above

        fitted_film = self.planner.state.known
        assert fitted_film is not None
        fit, draws = fitted_film.fit, fitted_film.draws
        self.character_heading.show_project(project)
        levers = levers_of(project, fit, shot, self.planner.appearance_of(shot.name))
        steps = self.planner.numbers.steps_of(shot)
        rows = {row.lever: row for row in presenter.lever_rows(shot, levers, steps, self._film_hours)}
        for lever, box in self.boxes.items():
            box.setVisible(lever in rows)
            if lever in rows:
                box.show_row(rows[lever])
        anew = ", weighed anew …" if self.planner.weighing else ""
        self.levers_heading.say(presenter.picked_words(project, self.edits.picked) + anew)
        slow = slow_denoiser(project, fit, draws, shot)
        self.slow.setText("" if slow is None else str(slow))
        more = trials_for_more(project, fit, shot, self.planner.appearance_of(shot.name))
        words = presenter.more_words(more[0]) if more else ""
        self.more.show_trial(more[0] if more else None, words, can_render=bool(scene_of(shot)))

    def _show_waterfall(self, available_h: float) -> None:
        self._available_h = round_figures(available_h)
        waterfall = self.planner.numbers.film_waterfall()
        self.waterfall_heading.say(presenter.waterfall_words(waterfall, available_h))
        self.waterfall.show_bars(presenter.bars(waterfall), available_h)

    def _shares(self, project: Project) -> list[presenter.Share]:
        known, options = self.planner.numbers.of_all(), self.planner.plan_options()
        names = [shot.name for shot in project.shots]
        return [presenter.share(options[name], known[name]) for name in names if name in known and name in options]

    def _on_taken(self, place: int) -> None:
        if self.hours.of_film:
            self.edits.take_film(self.film.settings_of(place))
            return
        shot = self._shot()
        options = None if shot is None else self.planner.options_of(shot.name)
        if shot is not None and options is not None:
            self.edits.take_option(shot.name, options.settings[place])


def _scrolled(inside: QWidget) -> QScrollArea:
    area = QScrollArea()
    area.setWidget(inside)
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    return area
