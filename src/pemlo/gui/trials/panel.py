"""The trials stage as widgets: ladder and table at the left, course and card at the right. GUI thread."""

import platform
import time
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
import numpy.typing as npt
from PySide6.QtCore import QModelIndex, Qt, Signal
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QFileDialog, QSplitter, QVBoxLayout, QWidget
from shiboken6 import isValid

from pemlo.app import picture_places
from pemlo.app.document import Document
from pemlo.app.file_facts import FileFacts
from pemlo.app.forecaster import FilmForecast
from pemlo.app.jobs import Jobs
from pemlo.app.renderings import Rendering
from pemlo.core.cost.next_trial import Advice
from pemlo.core.errors import FileError, InputError, PemloError
from pemlo.core.files.header import PICTURE_ENDINGS
from pemlo.core.forecast.unknowns import unknowns
from pemlo.core.persistence.csv_trials import read_trials
from pemlo.core.persistence.picture_names import whole_names
from pemlo.core.progress import Monitor
from pemlo.core.project.edits import add_trials, remove_trials, set_trial
from pemlo.core.project.project import Project
from pemlo.core.project.scenes import scene_of
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.trials import Trial
from pemlo.gui.common.labels import Heading, button, label
from pemlo.gui.common.pictures import SmallPicture, small_picture
from pemlo.gui.common.plain import set_tip
from pemlo.gui.common.table_model import TableModel
from pemlo.gui.common.table_view import TableView
from pemlo.gui.trials import presenter, render_words
from pemlo.gui.trials.entry_line import EntryLine
from pemlo.gui.trials.next_card import NextCard
from pemlo.gui.trials.picture_view import PictureView
from pemlo.gui.trials.render_form import RenderForm
from pemlo.gui.trials.trial_columns import TRIAL_COLUMNS, TrialRow, trial_rows

if TYPE_CHECKING:
    from pemlo.gui.common.plot import Plot
    from pemlo.gui.trials.plots import LadderPlot


LEFT_OUT_BY_HAND = "by hand"
SHOWN, SMALL = "shown picture", "small pictures"
LARGEST_SHOWN = 1920


class TrialsPanel(QWidget):
    """The stage.

    Signals
    -------
    shot_wanted(str)
        The card shows another shot: every stage should.
    render_wanted(list of Rendering)
        Frames that are to be rendered.
    files_wanted(list of str)
        Tables or pictures that are to be brought in.
    """

    shot_wanted = Signal(str)
    render_wanted = Signal(object)
    files_wanted = Signal(object)

    def __init__(self, document: Document, jobs: Jobs, report: Callable[[PemloError], None]) -> None:
        super().__init__()
        self._document, self._jobs, self._report = document, jobs, report
        self._answer: FilmForecast | None = None
        self._shot = ""
        self._renderings = 0
        self.ladder_plot: LadderPlot | None = None
        self.along_plot: Plot | None = None
        self.small = FileFacts(jobs, SMALL, lambda path, before: small_picture(self._small_of(path), before))
        self.model: TableModel[TrialRow] = TableModel(TRIAL_COLUMNS, document.edit, report, self._small_image)
        self.table = TableView(self.model, "Trials")
        self.table.empty_words = (
            "Render one frame, then type which one and what it took in the line below, like 41 and 4:02. "
            "Rows can be pasted from a table program too: frame and time, or frame, samples and time. "
            "Pictures can be dropped here: their headers tell the rest."
        )
        self.entry = EntryLine(self._on_typed)
        self.card = NextCard(report)
        self._ladder_heading = Heading("Ladder")
        self._along_heading = Heading("Cost along the shot")
        self._render_link = button(
            "Render…", "Render trials of this shot here: one frame or a ladder", self.ask_to_render, link=True
        )
        self._table_heading = Heading(
            "Trials",
            button("Picture", "Show the picture of the picked trial, larger", self.show_picture, link=True),
            self._render_link,
            button("Bring in…", "Read trials from a CSV file or from pictures", self.bring_in, link=True),
        )
        self._unknown = label("", "limit", wrap=True)
        self._unknown.setAccessibleName("What is not known of this shot")
        self._ladder_place, self._along_place = QVBoxLayout(), QVBoxLayout()
        self._lay_out()
        self.small.changed.connect(self.model.show_pictures)
        document.replaced.connect(self.small.forget)
        document.replaced.connect(lambda: jobs.cancel(SHOWN))
        self.table.pasted.connect(self._on_pasted)
        self.table.removal_asked.connect(self._on_removed)
        self.card.timed.connect(self._on_timed)
        self.card.shown.connect(self._draw)
        self.card.shot_wanted.connect(self.shot_wanted)
        self.card.render_wanted.connect(self._on_advice_to_render)
        self.table.doubleClicked.connect(self._on_double_clicked)

    def _lay_out(self) -> None:
        left, right = QSplitter(Qt.Orientation.Vertical), QSplitter(Qt.Orientation.Vertical)
        _add(left, [self._ladder_heading, self._unknown], self._ladder_place, [])
        _add(left, [self._table_heading], None, [self.table, self.entry])
        _add(right, [self._along_heading], self._along_place, [], indent=10)
        _add(right, [], None, [self.card], indent=10)
        left.setSizes([330, 260])
        right.setSizes([300, 210])
        self.columns = QSplitter(Qt.Orientation.Horizontal)
        self.columns.setObjectName("trials columns")
        self.columns.addWidget(left)
        self.columns.addWidget(right)
        self.columns.setSizes([690, 410])
        self.columns.setStretchFactor(0, 3)
        self.columns.setStretchFactor(1, 2)
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 10, 16, 2)
        column.addWidget(self.columns)

    def add_plots(self) -> None:
        """Put the plots in; called once, when their library is loaded."""
        from pemlo.gui.trials import plots  # noqa: PLC0415 - heavy to load, and the window comes up first

        for place, old in ((self._ladder_place, self.ladder_plot), (self._along_place, self.along_plot)):
            if old is not None:
                place.removeWidget(old)
                old.deleteLater()
        self.ladder_plot, self.along_plot = plots.make_ladder_plot(), plots.make_along_plot()
        self._ladder_place.addWidget(self.ladder_plot)
        self._along_place.addWidget(self.along_plot)
        for plot in (self.ladder_plot, self.along_plot):
            plot.picked.connect(self._on_dot_picked)
            kept = plot.sizePolicy()
            kept.setRetainSizeWhenHidden(True)
            plot.setSizePolicy(kept)
        self._draw()

    @property
    def shot(self) -> str:
        """The shot that is shown."""
        return self._shot

    def show_project(self, project: Project, answer: FilmForecast | None) -> None:
        """Show a project, and the forecast that goes with it if there is one."""
        self._answer = answer
        names = [shot.name for shot in project.shots]
        if self._shot not in names:
            self._shot = names[0] if names else ""
        self._show_shot(project)

    def pick(self, names: tuple[str, ...]) -> None:
        """Show a shot: the first that is picked."""
        if names and names[0] != self._shot:
            self._shot = names[0]
            self._show_shot(self._document.project)
            self.card.show_shot(self._shot)

    def _small_of(self, picture: Path) -> Path | None:
        return picture_places.small_of(picture, self._document.path)

    def _small_image(self, picture: Path) -> QImage | None:
        found: SmallPicture | None = self.small.of(picture)
        return None if found is None else found.image

    def show_advice(self, advice: tuple[Advice, ...]) -> None:
        project = self._document.project
        self.card.show_advice(advice, project.machines, self._shot, known=bool(project.counted_trials))

    def _show_shot(self, project: Project) -> None:
        answer = self._answer
        # How trials lie is told by their place among all: an older fit would tell it of the wrong ones.
        fit = answer.known.fit if answer is not None and answer.project.trials == project.trials else None
        rows = trial_rows(project, self._shot, fit, self._document.path)
        self.card.can_render(frozenset(shot.name for shot in project.shots if scene_of(shot)))
        self._render_link.setVisible(any(shot.name == self._shot and scene_of(shot) for shot in project.shots))
        self.model.show_rows(rows)
        self._table_heading.say(
            presenter.timed_words(rows),
            f"Trials of {self._shot}" if self._shot else "Trials",
        )
        self._ladder_heading.say("", f"Ladder of {self._shot}" if self._shot else "Ladder")
        shot = next((shot for shot in project.shots if shot.name == self._shot), None)
        words = unknowns(project, shot) if shot is not None else ()
        if self._answer is not None and self._answer.project.trials == project.trials:
            words = (*presenter.disagreement(project, self._shot, self._answer.known.fit), *words)
        self._unknown.setText(words[0] if words else "")
        set_tip(self._unknown, "\n".join(words))
        self._unknown.setVisible(bool(words))
        self._draw()

    def _draw(self) -> None:
        answer = self._answer
        if self.ladder_plot is None or self.along_plot is None:
            return
        from pemlo.gui.trials import plots  # noqa: PLC0415 - loaded by now

        shots = {shot.name: shot for shot in answer.project.shots} if answer is not None else {}
        known_shot = answer is not None and self._shot in shots and answer.known.fit.known
        for plot in (self.ladder_plot, self.along_plot):
            plot.setVisible(bool(known_shot))  # axes without a curve would show figures that mean nothing
        if answer is None or not known_shot:
            self._ladder_heading.say("appears with the first trial of the film")
            self._along_heading.say("appears with the first trial of the film")
            return
        shot, known = shots[self._shot], answer.known
        ladder = presenter.ladder(answer.project, shot, known.fit, known.draws)
        stale = answer.project.trials != self._document.project.trials
        self._ladder_heading.say(ladder.words + ("; a new fit is on its way" if stale else ""))
        plots.draw_ladder(self.ladder_plot, ladder)
        advice = self.card.advice
        frame = advice.frame if advice is not None and advice.shot == self._shot else None
        self._along_heading.say("")
        plots.draw_along(self.along_plot, presenter.along(answer.project, shot, known.fit), frame)

    def _on_typed(self, typed: dict[str, str]) -> bool:
        if not self._shot:
            return False
        try:
            trial = presenter.typed_trial(self._document.project, self._shot, typed)
            self._on_timed(trial)
        except PemloError as error:
            self._report(error)
            return False
        return True

    def _on_timed(self, trial: Trial) -> None:
        self._document.edit(f"Add a trial of {trial.shot}", lambda project: add_trials(project, [trial]))
        self.shot_wanted.emit(trial.shot)

    def _on_pasted(self, text: str) -> None:
        try:
            trials = presenter.pasted_trials(text, self._document.project, self._shot)
            self._document.edit(f"Paste {len(trials)} trials", lambda project: add_trials(project, trials))
        except PemloError as error:
            self._report(error)

    def ask_to_render(self, of_frame: int | None = None, region: render_words.Region | None = None) -> None:
        """Ask which trials of the shot to render; the form begins with the picked trial, or with what is asked."""
        project = self._document.project
        shot = next((shot for shot in project.shots if shot.name == self._shot), None)
        if shot is None or not scene_of(shot):
            what = "No shot is shown." if shot is None else f"Shot {shot.name} has no scene to render."
            self._report(InputError(what, "Give the shot one in the brief, in the column scene."))
            return
        picked = [self.model.rows[row].trial for row in self.table.selected_rows()]
        frame = picked[0].frame if picked else (shot.first + shot.last) // 2
        settings: FrameSettings = picked[0] if picked else shot.settings
        frame = frame if of_frame is None else of_frame

        def count(typed: dict[str, str]) -> str:
            found = render_words.wanted(project, shot, typed)
            return f"{len(found)} frames, each a trial when it is done" if len(found) > 1 else "1 frame"

        def start(typed: dict[str, str]) -> None:
            self._render(shot, render_words.wanted(project, shot, typed))

        self.form = RenderForm(self, shot.name, render_words.beginning(settings, frame, region), count, start)
        self.form.open()

    def _on_advice_to_render(self, advice: Advice) -> None:
        self.render_one(advice.shot, advice.frame, advice.settings)
        self.shot_wanted.emit(advice.shot)

    def render_one(self, shot: str, frame: int, settings: FrameSettings) -> None:
        """Render one trial."""
        self._render(self._document.project.shot(shot), (render_words.RenderRequest(frame, settings),))

    def _render(self, shot: Shot, wanted: Sequence[render_words.RenderRequest]) -> None:
        folder = picture_places.folder_for(self._document.path)
        try:
            folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            words = f"There is no place for pictures: {folder} cannot be made ({error.strerror})."
            self._report(FileError(words, "Save the project to a folder that may be written to."))
            return
        self.render_wanted.emit([self._rendering(shot, one, folder) for one in wanted])

    def _rendering(self, shot: Shot, wanted: render_words.RenderRequest, folder: Path) -> Rendering:
        self._renderings += 1
        when = time.strftime("%Y%m%d-%H%M%S")
        name = f"{picture_places.file_name(shot.name)}-{wanted.frame:04d}-{when}-{self._renderings:03d}"
        return Rendering(
            shot.name,
            scene_of(shot),
            wanted.frame,
            self._document.project.size_of(shot),
            wanted.settings,
            folder / f"{name}.exr",
            folder / f"{name}{picture_places.SMALL}",
            platform.node(),
            self._renderings,
            wanted.region,
        )

    def take_rendered(self, done: Rendering, header: dict[str, Any]) -> None:
        """Add the trial of a frame that was rendered."""
        project = self._document.project
        if all(shot.name != done.shot for shot in project.shots):
            return  # the shot was removed meanwhile
        trial = render_words.landed_trial(done.shot, done.settings, header, str(done.picture))
        self._document.edit(f"Render a trial of {trial.shot}", lambda project: add_trials(project, [trial]))

    def show_picture(self) -> None:
        """Show the picture of the picked trial, larger."""
        rows = self._picked_rows()
        if rows:
            self._show_picture(rows[0])

    def leave_out(self) -> None:
        """Leave the picked trials out of the forecast, or take them in again if all of them are left out."""
        rows = self._picked_rows()
        why = "" if rows and all(row.trial.left_out for row in rows) else LEFT_OUT_BY_HAND
        indices = [row.index for row in rows]

        def change(project: Project) -> Project:
            for index in indices:
                project = set_trial(project, index, left_out=why)
            return project

        if rows:
            what = "a trial" if len(rows) == 1 else f"{len(rows)} trials"
            self._document.edit(f"Leave out {what}" if why else f"Take in {what}", change)

    def _picked_rows(self) -> list[TrialRow]:
        rows = [self.model.rows[row] for row in self.table.selected_rows()]
        if not rows:
            self._report(InputError("No trial is picked.", "Pick one in the table first."))
        return rows

    def _on_double_clicked(self, index: QModelIndex) -> None:
        if index.column() == 0:
            self._show_picture(self.model.rows[index.row()])

    def _show_picture(self, row: TrialRow) -> None:
        picture = row.picture
        if picture is None:
            self._report(FileError("This trial has no picture.", "Render it, or drop its picture into the window."))
            return

        def find(_: Monitor) -> tuple[Path | None, QImage]:
            small = self._small_of(picture)
            whole = picture if picture.is_file() and picture != small else None
            if small is None and whole is None:
                hint = "Render it again, or drop it from where it is now."
                raise FileError(f"{picture} is not there any more.", hint)
            return whole, QImage() if small is None else QImage(str(small))

        def show(found: tuple[Path | None, QImage]) -> None:
            title = f"Shot {row.trial.shot}, frame {row.trial.frame}"
            self.picture_view = PictureView(self, title, found[1], presenter.picture_words(row.trial))
            self.picture_view.show()
            if found[0] is not None:
                self._read_whole(found[0], self.picture_view)

        self._jobs.submit(SHOWN, f"Looking for {picture.name}", find, show, waited_for=True)

    def _read_whole(self, file: Path, view: PictureView) -> None:
        def read(monitor: Monitor) -> npt.NDArray[np.uint8]:
            from pemlo.core.files.small import read_for_display  # noqa: PLC0415 - heavy to load

            monitor.step(0.0, f"Reading {file.name}")
            return read_for_display(file, LARGEST_SHOWN)

        def show(codes: npt.NDArray[np.uint8]) -> None:
            if isValid(view):  # it may be closed by now
                view.show_whole(codes)

        self._jobs.submit(SHOWN, f"Reading {file.name}", read, show, waited_for=True)

    def bring_in(self) -> None:
        kinds = f"Tables and pictures (*.csv *.tsv *.txt {' '.join('*' + ending for ending in PICTURE_ENDINGS)})"
        names, _ = QFileDialog.getOpenFileNames(self, "Bring in trials", "", f"{kinds};;All files (*)")
        if names:
            self.files_wanted.emit(names)

    def take_trials(self, text: str, path: Path) -> None:
        """Add the trials of a table; pictures are named from where it lies."""
        trials = whole_names(read_trials(text, self._document.project, path.name), path.parent)
        self._document.edit(f"Bring in {len(trials)} trials", lambda project: add_trials(project, trials))

    def _on_removed(self, rows: list[int]) -> None:
        indices = [self.model.rows[row].index for row in rows]
        what = "a trial" if len(indices) == 1 else f"{len(indices)} trials"
        self._document.edit(f"Remove {what}", lambda project: remove_trials(project, indices))

    def _on_dot_picked(self, index: int) -> None:
        self.table.pick([number for number, row in enumerate(self.model.rows) if row.index == index])


def _add(
    splitter: QSplitter, above: list[QWidget], place: QVBoxLayout | None, below: list[QWidget], indent: int = 0
) -> None:
    part = QWidget()
    column = QVBoxLayout(part)
    column.setContentsMargins(indent, 2, 8, 4)
    column.setSpacing(4)
    for one in above:
        column.addWidget(one)
    if place is not None:
        column.addLayout(place, 1)
    for one in below:
        column.addWidget(one)
    splitter.addWidget(part)
