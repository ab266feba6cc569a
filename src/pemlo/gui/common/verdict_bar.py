"""The verdict: one sentence, always true of the plan as it stands, and the figures behind it. GUI thread."""

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QSizePolicy, QWidget

from pemlo.core.forecast.sentences import detail, headline
from pemlo.core.project.project import Project
from pemlo.gui.common.fonts import HUGE, bold
from pemlo.gui.common.labels import label
from pemlo.gui.common.plain import set_tip

if TYPE_CHECKING:
    from pemlo.core.arrivals.outlook import Outlook
    from pemlo.core.forecast.verdict import Forecast


class VerdictBar(QWidget):
    """Headline and detail in one line; the detail wraps where the window is narrow."""

    def __init__(self) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 10, 16, 0)
        row.setSpacing(14)
        self.headline = label()
        self.headline.setFont(bold(HUGE))
        self.headline.setAccessibleName("Verdict")
        self.detail = label("", "second", wrap=True)
        self.detail.setAccessibleName("Figures of the verdict")
        self.detail.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        for one in (self.headline, self.detail):
            one.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        row.addWidget(self.headline)
        row.addWidget(self.detail, 1, Qt.AlignmentFlag.AlignVCenter)
        self.setFixedHeight(52)

    def show_forecast(self, project: Project, found: "Forecast") -> None:
        self.headline.setText(headline(project, found))
        self.detail.setText(detail(project, found))
        set_tip(self.headline, "What becomes of the deadline as the plan stands")

    def show_watched(self, found: "Outlook") -> None:
        """Show what becomes of the deadline as frames come in."""
        from pemlo.core.arrivals.verdict_words import watched_detail, watched_headline  # noqa: PLC0415 - heavy to load

        self.headline.setText(watched_headline(found))
        self.detail.setText(watched_detail(found))
        set_tip(self.headline, "What becomes of the deadline, with the frames that are in")
