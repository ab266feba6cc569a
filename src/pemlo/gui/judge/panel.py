"""The judge stage as widgets: pictures at the left, the sheet of judgement at the right. GUI thread."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QVBoxLayout, QWidget

from pemlo.app.document import Document
from pemlo.app.file_facts import FileFacts
from pemlo.app.film_known import FilmForecast as Forecast
from pemlo.app.jobs import Jobs
from pemlo.app.preferences import Preferences
from pemlo.core.errors import PemloError
from pemlo.core.files.header import PICTURE_ENDINGS
from pemlo.core.project.edits import set_delivery
from pemlo.core.project.project import Project
from pemlo.core.project.trials import GOOD
from pemlo.gui.common.empty_state import lay_out_empty
from pemlo.gui.common.labels import button, label
from pemlo.gui.common.size_question import ask_of_size
from pemlo.gui.judge import keys, presenter
from pemlo.gui.judge.blind import Blind
from pemlo.gui.judge.commands import Commands
from pemlo.gui.judge.conditions import ConditionsForm
from pemlo.gui.judge.judgement import Judgement
from pemlo.gui.judge.ladder.marking_page import MarkingPage
from pemlo.gui.judge.ladder.page import LadderPage
from pemlo.gui.judge.marking import set_mark
from pemlo.gui.judge.measure.error_page import ErrorPage
from pemlo.gui.judge.measure.findings import Findings
from pemlo.gui.judge.measure.measurer import files_of
from pemlo.gui.judge.measure.measuring import MeasureConditions
from pemlo.gui.judge.measure.region import RegionMeasure
from pemlo.gui.judge.pages import Pages
from pemlo.gui.judge.playback.play_bar import PlayBar
from pemlo.gui.judge.playback.player import Player
from pemlo.gui.judge.playback.runs import RunFinder
from pemlo.gui.judge.presenter import PictureChoice
from pemlo.gui.judge.sheet_words import missing_here, sheet_words
from pemlo.gui.judge.viewer.canvas import Canvas
from pemlo.gui.judge.viewer.choosing import Choosing
from pemlo.gui.judge.viewer.controls import Controls
from pemlo.gui.judge.viewer.pair import Pair
from pemlo.gui.judge.viewer.picture_row import MARKING, SHOTS, PictureRow
from pemlo.gui.judge.viewer.reader import PictureReader
from pemlo.gui.judge.viewer.shown import ShownPictures

SIDES = ("left", "right")


class JudgePanel(QWidget):
    """The stage.

    Signals
    -------
    region_wanted(tuple)
        Shot, frame and region (left, top, right, bottom) that a new ladder is to be rendered of.
    shot_wanted(str)
        Another shot is to be picked.
    trial_wanted(presenter.Missing)
        A trial to be rendered, without which a number cannot be had.
    offered(str, str, str, callable)
        A question, more of it, the words of what can be done, and that.
    """

    region_wanted = Signal(object)
    shot_wanted = Signal(str)
    trial_wanted = Signal(object)
    offered = Signal(str, str, str, object)

    def __init__(
        self, document: Document, jobs: Jobs, written: FileFacts, preferences: Preferences,
        report: Callable[[PemloError], None],
    ) -> None:  # fmt: skip
        super().__init__()
        self._document, self._written, self._report = document, written, report
        self._shown_shot = ""
        self._opening: int | None = None  # a trial that is shown once its shot's pictures are known
        self._shown: object = None
        self._chosen: tuple[PictureChoice | None, PictureChoice | None] = None, None
        self._blind = Blind()
        self.reader, self.findings = PictureReader(jobs), Findings(jobs, written)
        self.player = Player(jobs, self._how)
        self.runs = RunFinder(document, jobs, self.player)
        self.row, self.canvas, self.controls, self.play_bar = PictureRow(), Canvas(), Controls(), PlayBar(self.player)
        self.ladder, self.errors = LadderPage(jobs, report), ErrorPage(jobs)
        self.marking = MarkingPage(document, jobs, report, self.offered.emit)
        self.sheet = Judgement(ConditionsForm(preferences, report))
        self.choosing = Choosing(self.row, written.ask_anew, lambda: self._blind.on)
        self.shown = ShownPictures(self.canvas, self.controls, self.reader, self.findings, self.player, self._blind)
        self.pages = Pages(
            document, self.choosing, self.canvas, self.controls, self.ladder, self.marking, self.errors,
            self.reader, self.findings, self._how,
        )  # fmt: skip
        self.region = RegionMeasure(
            document, self.choosing, self.sheet, self.canvas, self.controls, self.reader, self.findings, self._blind
        )
        self.empty = label("", "second", wrap=True)
        self.begin = button("Show pictures…", "Any two pictures, side by side", self._on_begin)
        self.nothing = QWidget()
        self.reader.request = replace(self.reader.request, view=self.sheet.conditions.now.view)
        self.commands = Commands(self)
        self._lay_out()
        self._connect()

    def _lay_out(self) -> None:
        self.pictures = QWidget()
        column = QVBoxLayout(self.pictures)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        pages = tuple(dict.fromkeys(self.pages.widgets.values()))
        for one in (self.row, *pages, self.play_bar, self.controls):
            column.addWidget(one, int(one in pages))
        for one in (self.ladder, self.marking, self.errors):
            one.hide()
        whole = QHBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        lay_out_empty(self.nothing, self.empty, self.begin, "pictures")
        whole.addWidget(self.nothing, 1)
        whole.addWidget(self.pictures, 1)
        whole.addWidget(self.sheet)

    def _connect(self) -> None:
        sheet = self.sheet
        self.controls.exposure_chosen.connect(lambda stops: self._show_anew(stops=stops))
        self.choosing.changed.connect(self._show_shot)
        self.findings.changed.connect(self._say)
        self.region.ladder_wanted.connect(self.region_wanted)
        self.pages.trial_opened.connect(self._on_trial_opened)
        self.row.page_chosen.connect(lambda _: self.show_sheet())
        sheet.marked.connect(self.mark)
        sheet.blind_chosen.connect(self._on_blind)
        sheet.spot_wanted.connect(self.shown.next_spot)
        sheet.missing_wanted.connect(self._on_missing)
        sheet.conditions.changed.connect(lambda now: self._show_anew(view=now.view, linear=now.linear))
        sheet.conditions.viewing_chosen.connect(self._on_viewing)
        keys.install(self, self.commands)

    @property
    def shot(self) -> str:
        """The shot that is shown."""
        return self.choosing.shot

    @property
    def pair(self) -> Pair:
        """The two pictures that are shown."""
        return self.choosing.pair

    def show_project(self, project: Project, forecast: Forecast | None) -> None:
        """Show a project, and the forecast that goes with it if there is one."""
        names = [shot.name for shot in project.shots]
        if self.shot not in names:
            self.choosing.show_shot(names[0] if names else "")
        new_forecast = forecast is not self.findings.forecast
        self.findings.forecast = forecast
        self._show_shot()
        if new_forecast:
            self.findings.ask_worth()

    def forget(self) -> None:
        """Forget what was shown of the film that was here before."""
        self.runs.forget()
        self._shown_shot = ""
        self.choosing.show_shot(self.shot)

    def pick(self, names: tuple[str, ...]) -> None:
        """Show a shot: the first that is picked."""
        if names and names[0] != self.shot:
            self.choosing.show_shot(names[0])
            if self.isVisible():
                self._show_shot()

    def _show_shot(self) -> None:
        """Show the pictures of the shot, once it is known which are there."""
        project, path = self._document.project, self._document.path
        sure = self._written.known(presenter.pictures_named(project, self.shot, path))
        if not sure and self._shown_shot == self.shot:
            return  # a picture came in: it is shown with the others when it is known
        self._shown_shot = self.shot if sure else ""
        written = self._written
        found = presenter.picture_choices(project, self.shot, path, lambda one: written.of(one) is not None)
        self.choosing.offer(found if sure else ())
        if sure and self._opening is not None:
            opening, self._opening = self._opening, None
            self.choosing.show_trial(opening)
            return  # it is shown by what that has set off
        self.nothing.setVisible(not self.show_sheet())
        self.begin.setVisible(sure)
        self.empty.setText(presenter.empty_words(self.shot, waiting=not sure))
        left, right, question = self.pair.left, self.pair.right, self.pair.question(self._how())
        files = {choice.path for choice in (left, right) if choice is not None} | {*files_of(question)}
        if not self._written.known(files):
            return  # it is shown when they are
        shown = left and left.path, right and right.path, question, *map(self._written.of, sorted(files))
        if shown == self._shown:
            self._say()  # a forecast or a mark is new, the pictures are not
        else:
            self._shown = shown
            self._show_pair()

    def show_sheet(self) -> bool:
        """Show the pictures, and beside them the sheet, but where tiles are marked where they stand; if there are any.

        There are where the shot has a picture, or on the page of every shot any.
        """
        every = self.pages.now == SHOTS and any(trial.picture for trial in self._document.project.trials)
        self.pictures.setVisible(self.row.any or every)
        self.sheet.setVisible(self.row.any and self.pages.now not in MARKING)
        return self.row.any or every

    def _on_trial_opened(self, shot: str, index: int) -> None:
        self.show_sheet()
        self._opening = index
        if shot != self.shot:
            self.shot_wanted.emit(shot)
        else:
            self._show_shot()

    def _how(self) -> MeasureConditions:
        """Return how pictures are measured now."""
        request, viewing = self.reader.request, self._document.project.delivery.seen_from
        return MeasureConditions(request.display(), request.reading(), viewing, self.sheet.conditions.now.as_seen)

    def _show_pair(self) -> None:
        """Show and measure the two pictures."""
        pair = self.pair
        self.canvas.spot = None
        self.shown.in_sequence = self.shown.in_sequence and (pair.left, pair.right) == self._chosen
        self._chosen = pair.left, pair.right
        self._blind.deal()
        shown = self._blind.ordered(pair.left, pair.right)
        self.reader.ask(
            **{side: None if choice is None else choice.path for side, choice in zip(SIDES, shown, strict=True)}
        )
        self.runs.find(self.shot, pair, hidden=self._blind.on)
        self.findings.ask(pair, self._how())
        if self._blind.on:
            self.findings.ask_right()
        self.sheet.show_region(None)
        self.pages.show(self.pages.now)

    def _say(self) -> None:
        """Say everything that is not a picture."""
        hidden, pair, findings = self._blind.on, self.pair, self.findings
        titles = (
            ("one", "the other") if hidden else tuple("" if x is None else x.title for x in (pair.left, pair.right))
        )
        self.canvas.say(titles[0], "" if pair.right is None else titles[1])
        self.row.hide_names(hidden=hidden)
        project = self._document.project
        self.sheet.say(
            sheet_words(project, self.shot, pair, findings.found, findings.sources, findings.worth, hidden=hidden)
        )
        self.shown.show_map()
        self.pages.show_errors()
        self.pages.show_marks()

    def _show_anew(self, **changes: object) -> None:
        """Show the pictures in other conditions."""
        self.reader.ask(**changes)
        self.player.read_anew()
        self._show_shot()

    def _on_begin(self) -> None:
        """Ask for pictures to begin with."""
        kinds = " ".join("*" + ending for ending in PICTURE_ENDINGS)
        names, _ = QFileDialog.getOpenFileNames(self, "Show pictures", "", f"Pictures ({kinds});;All files (*)")
        if names:
            self.choosing.show_files([Path(name) for name in names])

    def _on_viewing(self, viewing: str) -> None:
        self._document.edit("Set where it is seen from", lambda project: set_delivery(project, seen_from=viewing))

    def _on_missing(self) -> None:
        missing = missing_here(self._document.project, self.pair, self.findings.found)
        if missing is not None:
            self.trial_wanted.emit(missing)

    def mark(self, what: str) -> None:
        """Mark the left picture, or the framed tile; empty takes a mark away."""
        if self.pages.now in MARKING:
            self.marking.mark(what)  # type: ignore[arg-type]
            return
        marked = set_mark(self._document, self.pair, self._blind, self.findings, self.sheet, what, self._report)
        if marked is not None:
            self.sheet.note.clear()
            self.sheet.blind.setChecked(False)
            if what == GOOD and marked.index is not None:
                ask_of_size(self._document, (marked.index,), self.offered.emit)

    def _on_blind(self, on: bool) -> None:  # noqa: FBT001 - Qt's signal carries it so
        self._blind.turn(on)
        self._show_pair()
