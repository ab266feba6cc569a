"""Asks how the program should look. What can be shown at once is shown at once. GUI thread."""

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from pemlo.app.appearance import FIRST_DAYS, TEXT_PERCENTS, THEMES, Appearance
from pemlo.core.cluster import cluster_of
from pemlo.gui.common.choice import Choice
from pemlo.gui.common.labels import button, label
from pemlo.gui.common.plain import set_tip

ROOMY, COMPACT = "roomy", "compact"


class PreferencesForm(QDialog):
    """A choice for each preference."""

    def __init__(self, parent: QWidget, now: Appearance, show: Callable[[Appearance], None]) -> None:
        super().__init__(parent)
        self.setWindowTitle("Preferences")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self._show, self._began = show, now
        days = {number: name for name, number in FIRST_DAYS.items()}
        self.text = self._choice(
            "Text size", "Of all text, and of all that stands around it", [f"{p} %" for p in TEXT_PERCENTS],
            f"{now.text_percent} %",
        )  # fmt: skip
        self.theme = self._choice("Theme", "Day is ink on paper, Dim is for dark rooms", list(THEMES), now.theme)
        self.density = self._choice(
            "Density", "How close rows and controls stand", [ROOMY, COMPACT], COMPACT if now.compact else ROOMY
        )
        self.day = self._choice(
            "Week begins on", "In calendars and painted weeks", list(FIRST_DAYS), days[now.first_day]
        )
        self.later = label("", "second", small=True, wrap=True)
        self.cluster = QLineEdit()
        self.cluster.setAccessibleName("Cluster")
        self.cluster.setPlaceholderText("dask://host:8786")
        set_tip(self.cluster, "Runs and plans of large films go to this Dask cluster; the numbers are the same")
        self.cluster.editingFinished.connect(self._on_cluster)
        self.no_cluster = label("", "limit", small=True, wrap=True)
        self._take_cluster: Callable[[str], None] = lambda _: None
        grid = QGridLayout()
        grid.setHorizontalSpacing(12)
        grid.setVerticalSpacing(8)
        for row, choice in enumerate((self.text, self.theme, self.density, self.day, self.cluster)):
            name = label(choice.accessibleName(), "second")
            name.setBuddy(choice)
            grid.addWidget(name, row, 0)
            grid.addWidget(choice, row, 1)
        grid.setColumnStretch(1, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 14, 18, 14)
        column.setSpacing(10)
        column.addLayout(grid)
        column.addWidget(self.no_cluster)
        column.addWidget(self.later)
        foot = QHBoxLayout()
        foot.addStretch(1)
        foot.addWidget(button("Done", "Close these preferences", self.accept, main=True))
        column.addLayout(foot)
        self.setMinimumWidth(360)

    def show_cluster(self, place: str, take: Callable[[str], None]) -> None:
        """Show where a cluster is, and who takes another place for it."""
        self.cluster.setText(place)
        self._take_cluster = take

    def _on_cluster(self) -> None:
        """Take a place that can be one, or none; say what is wrong with another."""
        place = self.cluster.text().strip()
        wrong = bool(place) and cluster_of(place) is None
        self.cluster.setProperty("wrong", wrong)
        self.cluster.style().polish(self.cluster)
        self.no_cluster.setText(f"“{place[:60]}” is not a cluster; write it like dask://host:8786." if wrong else "")
        if not wrong:
            self._take_cluster(place)

    def _choice(self, name: str, tip: str, words: list[str], now: str) -> Choice:
        made = Choice(name, tip, words)
        made.setCurrentText(now)
        made.activated.connect(lambda _: self._on_chosen())
        return made

    def _on_chosen(self) -> None:
        wanted = Appearance(
            theme=self.theme.currentText(),
            text_percent=int(self.text.currentText().split()[0]),
            compact=self.density.currentText() == COMPACT,
            first_day=FIRST_DAYS[self.day.currentText()],
        )
        later = wanted.text_percent != self._began.text_percent
        self.later.setText("The text size is taken when Pemlo starts the next time." if later else "")
        self._show(wanted)
