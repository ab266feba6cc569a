"""The verdict: one sentence, always true of the plan as it stands, and the figures behind it. GUI thread."""

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QSizePolicy

from pemlo.gui.common.fonts import HUGE, bold
from pemlo.gui.common.labels import label
from pemlo.gui.common.opaque import Opaque
from pemlo.gui.common.plain import set_tip

if TYPE_CHECKING:
    from pemlo.words.film_verdict import FilmVerdict


class VerdictBar(Opaque):
    """Headline and detail in one line; the detail wraps where the window is narrow."""

    def __init__(self) -> None:
        super().__init__("verdict")
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

    def show_verdict(self, verdict: "FilmVerdict") -> None:
        self.headline.setText(verdict.headline)
        self.detail.setText(verdict.detail)
        by = "with the frames that are in" if verdict.by_frames else "as the plan stands"
        set_tip(self.headline, f"What becomes of the deadline, {by}")
