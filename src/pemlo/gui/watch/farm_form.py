"""The form that has the small farm render the film, to try watching with. GUI thread."""

from dataclasses import dataclass
from pathlib import Path

from PySide6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QVBoxLayout,
    QWidget,
)

from pemlo.core.arrivals.farm_clock import FASTEST
from pemlo.core.arrivals.farm_faults import faults_of
from pemlo.core.errors import InputError
from pemlo.core.project.project import Project
from pemlo.gui.common.labels import button, label

WORDS = (
    "The machines of the brief render the plan, with their hours, speeds and losses, by a clock of its own. Pictures "
    "are small, with real light and noise; what frames cost is drawn from what your trials leave open. Only this "
    "folder is written."
)
DEMO_SPEED = 6000.0


@dataclass(frozen=True)
class FarmWanted:
    """What was chosen: the folder, how fast its clock runs, what goes wrong, and the seed."""

    folder: Path
    speed: float
    faults: str
    seed: int


class FarmForm(QDialog):
    """The form."""

    def __init__(self, parent: QWidget, project: Project, folder: Path) -> None:
        super().__init__(parent)
        self._project = project
        self.setWindowTitle("Try it with the small farm")
        self.folder, self.speed = QLineEdit(str(folder)), QLineEdit(f"{DEMO_SPEED:g}")
        self.faults, self.seed = QLineEdit(), QLineEdit("0")
        self.faults.setPlaceholderText("none; or chance; or slow:blade@10h, lost:070/12")
        self.wrong = label("", "limit", wrap=True)
        form = QFormLayout()
        place = QHBoxLayout()
        place.addWidget(self.folder, 1)
        place.addWidget(button("Choose…", "Choose a folder", self._choose))
        form.addRow("Into", place)
        form.addRow("Times as fast", self.speed)
        form.addRow("What goes wrong", self.faults)
        form.addRow("Seed", self.seed)
        names = ("Folder", "Clock", "Faults", "Seed")
        for name, field in zip(names, (self.folder, self.speed, self.faults, self.seed), strict=True):
            field.setAccessibleName(name)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        self.begin = button("Begin to render", "Start the small farm, and watch it", self._accept, main=True)
        buttons.addButton(self.begin, QDialogButtonBox.ButtonRole.ActionRole)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.addWidget(label(WORDS, "second", wrap=True))
        column.addLayout(form)
        column.addWidget(self.wrong)
        column.addWidget(buttons)
        self.resize(560, 260)

    def _choose(self) -> None:
        chosen = QFileDialog.getExistingDirectory(self, "Into which folder", self.folder.text())
        if chosen:
            self.folder.setText(chosen)

    @property
    def wanted(self) -> FarmWanted:
        """What is chosen.

        Raises
        ------
        InputError
            If something cannot be.
        """
        try:
            speed, seed = float(self.speed.text()), int(self.seed.text())
        except ValueError as error:
            raise InputError("The clock and the seed are numbers.", "Write 4000 and 0.") from error
        if not 1 <= speed <= FASTEST or seed < 0:
            raise InputError(f"The clock runs 1 to {FASTEST:g} times as fast, and the seed is 0 or more.")
        if not self.folder.text().strip():
            raise InputError("Into which folder is not said.", "Choose one.")
        faults_of(self.faults.text(), self._project, seed)
        return FarmWanted(Path(self.folder.text().strip()), speed, self.faults.text(), seed)

    def _accept(self) -> None:
        try:
            _ = self.wanted
        except InputError as error:
            self.wrong.setText(str(error))
            return
        self.accept()
