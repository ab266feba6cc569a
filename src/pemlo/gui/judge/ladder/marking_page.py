"""The pages on which one marks at a glance: every shot, or every trial of a shot, as labelled tiles. GUI thread."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Literal

from PySide6.QtCore import QPoint, QSize, Qt, Signal
from PySide6.QtGui import QImage, QPainter
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from pemlo.app.document import Document
from pemlo.app.jobs import Jobs
from pemlo.app.picture_places import base_folder
from pemlo.core.errors import FileError, PemloError
from pemlo.core.progress import Monitor
from pemlo.core.project.edits import set_trial
from pemlo.core.project.project import Project
from pemlo.core.project.spelling import settings_words
from pemlo.core.project.trials import BAD, GOOD, Mark
from pemlo.core.units import format_duration
from pemlo.gui.common.colours import SURROUND
from pemlo.gui.common.labels import button, label
from pemlo.gui.common.problem_bar import Offer
from pemlo.gui.common.size_question import ask_of_size
from pemlo.gui.judge.ladder.sheet import TILE, LadderSheet, Tile

if TYPE_CHECKING:
    import numpy as np
    import numpy.typing as npt

    from pemlo.handover.picture_sheet import SheetTrial

    Read = list[tuple[SheetTrial, "npt.NDArray[np.uint8] | None"]]

JOB = "judge marking"
Of = Literal["every shot", "every trial"]
HOW = {
    "every shot": "One picture of each shot: as planned, else what passed, else the cleanest.",
    "every trial": "Every picture of the shot.",
}


class MarkingPage(QWidget):
    """Tiles that are marked where they stand.

    Signals
    -------
    opened(str, int)
        A shot, and a trial by its place in the document, that is to be looked at.
    """

    opened = Signal(str, int)

    def __init__(self, document: Document, jobs: Jobs, report: Callable[[PemloError], None], offer: Offer) -> None:
        super().__init__()
        self.setObjectName("onpicture")
        self._document, self._jobs, self._report, self._offer = document, jobs, report, offer
        self._of: Of = "every shot"
        self._made: object = None
        self._picked = ""
        self._framed: object = None  # the page and the shot for which a picture was framed
        self.trials: tuple[SheetTrial, ...] = ()
        self._images: dict[Path, QImage] = {}
        self.words = label("", "second", wrap=True)
        self.good = button("Good enough", "The framed picture passes (Y)", lambda: self.mark(GOOD), link=True)
        self.bad = button("Not good enough", "The framed picture does not pass (N)", lambda: self.mark(BAD), link=True)
        self.open_it = button("Open", "Look at the framed picture (Enter, or a double click)", self._on_open, link=True)
        self.export = button("PNG…", "Write the sheet as a picture", self._on_export, link=True)
        self.sheet = LadderSheet(compares=False)
        self.sheet.opened.connect(lambda _: self._on_open())
        row = QHBoxLayout()
        row.setContentsMargins(10, 4, 10, 4)
        row.addWidget(self.words, 1)
        for push_button in (self.good, self.bad, self.open_it, self.export):
            row.addWidget(push_button)
        area = QScrollArea()
        area.setWidget(self.sheet)
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.sheet.moved.connect(lambda at: area.ensureVisible(at.center().x(), at.center().y(), 0, TILE.height()))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(row)
        column.addWidget(area, 1)

    def show_of(self, of: Of, shot: str) -> None:
        """Show every shot, or every trial of one; pictures that were read stay."""
        self._of, self._picked = of, shot
        project, folder = self._document.project, base_folder(self._document.path)
        wanted = (of, shot if of == "every trial" else "", project.shots, project.trials, folder)
        if wanted == self._made:
            self._frame_picked()
            return
        self._made = wanted
        known = frozenset(self._images)

        def work(monitor: Monitor) -> "Read":
            from pemlo.core.files.small import read_for_display  # noqa: PLC0415 - heavy to load

            found: Read = []
            trials = trials_of(project, of, shot, folder)
            for number, trial in enumerate(trials):
                monitor.step(number / len(trials), f"Reading pictures, {trial.shot}")
                if trial.picture is None or trial.picture in known:
                    found.append((trial, None))
                    continue
                try:
                    found.append((trial, read_for_display(trial.picture, TILE.width())))
                except FileError:  # the label stays, without a picture
                    found.append((trial, None))
            return found

        self._jobs.submit(JOB, "Reading pictures", work, self._take)

    def _take(self, found: "Read") -> None:
        for one, codes in found:
            if codes is not None and one.picture is not None:
                self._images[one.picture] = _image(codes)
        self.trials = tuple(one for one, _ in found)
        self.sheet.show_tiles([self._tile(trial) for trial in self.trials], stay=True)
        self._frame_picked()
        keys = "Arrow keys move, Y and N mark, Enter opens." if self.trials else "No trial has a picture yet."
        self.words.setText(f"{HOW[self._of]} {keys}")

    def _frame_picked(self) -> None:
        """Frame the first picture of the shot that is picked, once: keys move on from there."""
        places = [place for place, trial in enumerate(self.trials) if trial.shot == self._picked]
        if (self._of, self._picked) != self._framed and places:
            self._framed = (self._of, self._picked)
            self.sheet.frame(places[0])

    def _tile(self, trial: "SheetTrial") -> Tile:
        image = QImage() if trial.picture is None else self._images.get(trial.picture, QImage())
        if trial.trial is None:
            return Tile(_framed(image), trial.shot, "no picture yet")
        mark = f" · {trial.trial.mark}" if trial.trial.mark else " · not marked"
        title = f"{trial.shot}, frame {trial.trial.frame}: {settings_words(trial.trial)}"
        return Tile(_framed(image), title, f"{format_duration(trial.trial.seconds)} a frame{mark}")

    @property
    def _at(self) -> "SheetTrial | None":
        return self.trials[self.sheet.at] if self.sheet.at < len(self.trials) else None

    def mark(self, what: Mark) -> None:
        """Mark the framed picture by eye; marked so already, its mark is taken away. A measured error stays."""
        trial, trials = self._at, self._document.project.trials
        if trial is None or trial.trial is None or trial.index is None or trial.index >= len(trials):
            return
        now = trials[trial.index]  # tiles may be older than the document by a moment
        if (now.shot, now.picture) != (trial.shot, trial.trial.picture):
            return
        wanted: Mark = "" if now.mark == what else what
        index, words = trial.index, {GOOD: "good enough", BAD: "not good enough"}.get(wanted, "with no mark")
        self._document.edit(
            f"Mark {trial.shot}, frame {trial.trial.frame} {words}",
            lambda project: set_trial(project, index, mark=wanted, mark_size=False),
        )
        if wanted == GOOD:
            ask_of_size(self._document, [index], self._offer)

    def _on_open(self) -> None:
        trial = self._at
        if trial is not None and trial.index is not None:
            self.opened.emit(trial.shot, trial.index)

    def _on_export(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Write the sheet", "picture sheet.png", "PNG (*.png)")
        name = name if not name or name.lower().endswith(".png") else f"{name}.png"
        if name and not self.sheet.as_image().save(name):
            self._report(FileError(f"{name} cannot be written.", "See that its folder may be written to."))


def trials_of(project: Project, of: Of, shot: str, folder: Path) -> "tuple[SheetTrial, ...]":
    """Return the trials that stand on the page; asks the disk for their pictures."""
    from pemlo.handover.picture_sheet import one_of_each, variants_of  # noqa: PLC0415 - heavy to load

    return one_of_each(project, folder) if of == "every shot" else variants_of(project, shot, folder)


def _image(codes: "npt.NDArray[np.uint8]") -> QImage:
    height, width, _ = codes.shape
    return QImage(codes.tobytes(), width, height, 3 * width, QImage.Format.Format_RGB888).copy()


def _framed(image: QImage) -> QImage:
    """Return a picture in the middle of a tile, whole; grey where there is none."""
    framed = QImage(TILE, QImage.Format.Format_RGB32)
    framed.fill(SURROUND)
    if not image.isNull():
        smooth = Qt.TransformationMode.SmoothTransformation
        whole = image.scaled(QSize(TILE), Qt.AspectRatioMode.KeepAspectRatio, smooth)
        with QPainter(framed) as painter:
            left, top = (TILE.width() - whole.width()) // 2, (TILE.height() - whole.height()) // 2
            painter.drawImage(QPoint(left, top), whole)
    return framed
