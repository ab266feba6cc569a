"""The stage Watch: what has come in, when the rest is done, why that changed, and what is wrong. GUI thread."""

from collections.abc import Callable, Sequence
from datetime import timedelta

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QSplitter, QVBoxLayout, QWidget

from pemlo.app.document import Document
from pemlo.app.film_known import FilmForecast
from pemlo.app.jobs import Jobs
from pemlo.app.picture_places import base_folder
from pemlo.app.selection import Selection
from pemlo.app.small_farm import SmallFarm
from pemlo.app.watcher import Watcher
from pemlo.core.arrivals.live_forecast import LiveForecast
from pemlo.core.arrivals.store import FinishRow
from pemlo.core.errors import PemloError
from pemlo.core.project.project import Project
from pemlo.gui.common.empty_state import lay_out_empty
from pemlo.gui.common.enabling import enable
from pemlo.gui.common.labels import Elided, Heading, button, label, rule
from pemlo.gui.watch import presenter
from pemlo.gui.watch.charts import CostProfileChart, MovesChart
from pemlo.gui.watch.frames_box import FramesBox
from pemlo.gui.watch.picture_pane import PicturePane
from pemlo.gui.watch.side import WatchSide
from pemlo.gui.watch.sources import FrameSources
from pemlo.gui.watch.watch_edits import WatchEdits


class BottomRow(QWidget):
    """The row."""

    def __init__(self, jobs: Jobs) -> None:
        super().__init__()
        self.cost_profile, self.moves, self.pictures = CostProfileChart(), MovesChart(), PicturePane(jobs)
        self.cost_profile_title, moves_title = Elided("title"), Elided("title")
        moves_title.setText("How the finish moved")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 6, 0, 0)
        row.setSpacing(14)
        for title, chart, stretch in ((self.cost_profile_title, self.cost_profile, 3), (moves_title, self.moves, 2)):
            column = QVBoxLayout()
            column.setSpacing(2)
            column.addWidget(title)
            column.addWidget(chart, 1)
            row.addLayout(column, stretch)
        row.addWidget(self.pictures, 2)

    def show_live_forecast(self, live: LiveForecast, finishes: Sequence[FinishRow], shot: str) -> None:
        """Show a shot, and how the finish moved."""
        self.cost_profile.show_cost_profile(presenter.cost_profile_of(live, shot))
        self.cost_profile_title.setText(f"{shot}: a frame, on the reference machine" if shot else "")
        self.moves.show_moves(live.snapshot.project, presenter.moves_of(live.snapshot.project, finishes))


EMPTY = (
    "Say where frames arrive, and Pemlo looks there: finished, missing and broken frames, when the rest is done, and "
    "why that changes. Nothing is ever written there. The small farm that ships with Pemlo renders the film for a try."
)


class WatchPanel(QWidget):
    """The panel.

    Signals
    -------
    shot_wanted(str)
    plan_wanted(Outlook)
        What is left is to be planned anew.
    """

    shot_wanted = Signal(str)
    plan_wanted = Signal(object)

    def __init__(
        self, document: Document, jobs: Jobs, selection: Selection, watcher: Watcher, farm: SmallFarm,
        report: Callable[[PemloError], None],
    ) -> None:  # fmt: skip
        super().__init__()
        self._document, self._selection, self._watcher, self._farm = document, selection, watcher, farm
        self.edits = WatchEdits(document, report)
        self.sources = FrameSources(self, document, watcher, farm, self.edits)
        self.below, self.side = BottomRow(jobs), WatchSide()
        self.frames = FramesBox(self.below.pictures, lambda: base_folder(document.path))
        self.plan = button(
            "Plan the rest", "Look in Trade for a plan of the remaining frames", self.plan_rest, link=True
        )
        self.heading = Heading(
            "What has come in", self.plan, self.sources.where, self.sources.pause, self.sources.farm_link
        )
        self.said = label("", "second", small=True, wrap=True)
        self._lay_out()
        watcher.looked.connect(lambda _: self._show())
        watcher.changed.connect(self._show)
        farm.changed.connect(self._show)
        self.frames.shot_wanted.connect(self.shot_wanted)
        self.frames.again_wanted.connect(self._again)
        self.frames.keep_wanted.connect(self.edits.keep_frames)
        self.side.alarms.picked.connect(self.frames.show_alarm)
        self.side.alarms.copied.connect(lambda one: self.frames.copy_frames(one.frames))
        self.side.alarms.again.connect(lambda one: self._again(one.shot, one.frames))
        self.side.alarms.plan_wanted.connect(self.plan_rest)
        self.side.numbers.picked.connect(
            lambda rows: self.shot_wanted.emit(rows[0].shot.shot) if len(rows) == 1 else None
        )

    def _lay_out(self) -> None:
        upper = QWidget()
        above = QVBoxLayout(upper)
        above.setContentsMargins(0, 0, 0, 4)
        above.setSpacing(4)
        above.addWidget(self.heading)
        above.addWidget(self.said)
        above.addWidget(self.frames, 1)
        split = QSplitter(Qt.Orientation.Vertical)
        split.setChildrenCollapsible(False)
        for number, (part, stretch) in enumerate(((upper, 3), (self.below, 2))):
            split.addWidget(part)
            split.setStretchFactor(number, stretch)
        self.stage = QWidget()
        row = QHBoxLayout(self.stage)
        row.setContentsMargins(18, 10, 0, 8)
        row.setSpacing(12)
        row.addWidget(split, 1)
        row.addWidget(rule(upright=True))
        row.addWidget(self.side)
        self.nothing, self.empty = QWidget(), label(EMPTY, wrap=True)
        begin = button("Say where frames arrive", "Choose the folder and names", self.sources.ask_place, main=True)
        lay_out_empty(self.nothing, self.empty, begin, "frames")
        column = self.nothing.layout()
        assert isinstance(column, QVBoxLayout)
        column.insertWidget(2, self.sources.farm_button, 0, Qt.AlignmentFlag.AlignLeft)
        both = QVBoxLayout(self)
        both.setContentsMargins(0, 0, 0, 0)
        both.addWidget(self.stage)
        both.addWidget(self.nothing)

    # What every stage can do

    def show_project(self, project: Project, answer: FilmForecast | None) -> None:  # noqa: ARG002 - as every stage
        """Show a project; what came is shown as it is found."""
        self._show()

    def pick(self, names: tuple[str, ...]) -> None:  # noqa: ARG002 - as every stage
        """Show other shots."""
        self._show()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._show()

    # What came

    @property
    def found(self) -> "LiveForecast | None":
        """What is said of the film, if that is of the shots that it has now."""
        watched = self._watcher.last
        if watched is None:
            return None
        shots = [shot.name for shot in watched.live_forecast.snapshot.project.shots]
        return watched.live_forecast if shots == [shot.name for shot in self._document.project.shots] else None

    def _show(self) -> None:
        if not self.isVisible():
            return
        self.stage.setVisible(self._watcher.wanted)
        self.nothing.setVisible(not self._watcher.wanted)
        self.sources.show()
        live, watched = self.found, self._watcher.last
        enable(self.plan, _why_no_plan(live))
        if live is None or watched is None:
            waits = "Looking for frames…" if self._watcher.on else "Nothing is watched."
            self.said.setText(presenter.farm_words(self._farm.prepares) or waits)
            return
        place = self._document.project.watching.place or "places of the shots"
        self.heading.say(presenter.where_words(live, place, paused=self._watcher.paused))
        farm = presenter.farm_words(self._farm.prepares)
        self.said.setText(" ".join(filter(None, (farm, presenter.elapsed_words(live), presenter.disk_words(live)))))
        self.frames.show_live_forecast(live, self._selection.shots)
        self.below.show_live_forecast(live, watched.finishes, self._shot)
        self.side.show_live_forecast(live, self._selection.shots)

    @property
    def _shot(self) -> str:
        shots = self._document.project.shots
        return self._selection.shots[0] if self._selection.shots else shots[0].name if shots else ""

    def _again(self, shot: str, frames: tuple[int, ...]) -> None:
        live = self.found
        if live is not None:
            self.edits.render_again(shot, frames, live.snapshot.project.start + timedelta(seconds=live.snapshot.now))

    def plan_rest(self) -> None:
        """Plan what is left."""
        if self.found is not None and self.found.rest is not None:
            self.plan_wanted.emit(self.found)


def _why_no_plan(live: "LiveForecast | None") -> str:
    if live is None or live.rest is None:
        return "The remaining work is not known yet."
    return "Every frame is in." if live.done else ""
