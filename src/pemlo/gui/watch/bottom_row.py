"""Below the frames: the course of the picked shot, how the finish moved, and pictures. GUI thread."""

from collections.abc import Sequence

from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from pemlo.app.jobs import Jobs
from pemlo.core.arrivals.live_forecast import LiveForecast
from pemlo.core.arrivals.store import FinishRow
from pemlo.gui.common.labels import Elided
from pemlo.gui.watch import presenter
from pemlo.gui.watch.charts import CostProfileChart, MovesChart
from pemlo.gui.watch.picture_pane import PicturePane


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

    def show_live_forecast(self, found: LiveForecast, finishes: Sequence[FinishRow], shot: str) -> None:
        """Show a shot, and how the finish moved."""
        self.cost_profile.show_cost_profile(presenter.cost_profile_of(found, shot))
        self.cost_profile_title.setText(f"{shot}: a frame, on the reference machine" if shot else "")
        self.moves.show_moves(found.snapshot.project, presenter.moves_of(found.snapshot.project, finishes))
