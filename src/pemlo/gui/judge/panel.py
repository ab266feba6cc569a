"""The judge stage as widgets: pictures at the left, the sheet of judgement at the right. GUI thread."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from pemlo.app.document import Document
from pemlo.app.file_facts import FileFacts
from pemlo.app.forecaster import FilmForecast as Forecast
from pemlo.app.jobs import Jobs
from pemlo.app.preferences import Preferences
from pemlo.core.errors import PemloError
from pemlo.core.project.ceiling import ceiling_of
from pemlo.core.project.edits import set_delivery
from pemlo.core.project.project import Project
from pemlo.core.project.scenes import scene_of
from pemlo.gui.common.labels import label
from pemlo.gui.common.plain import set_tip
from pemlo.gui.judge import keys, presenter
from pemlo.gui.judge.blind import Blind
from pemlo.gui.judge.commands import Commands
from pemlo.gui.judge.conditions import Conditions, ConditionsForm
from pemlo.gui.judge.judgement import Judgement
from pemlo.gui.judge.ladder.page import LadderPage
from pemlo.gui.judge.ladder.tiles import part_around
from pemlo.gui.judge.marking import set_mark
from pemlo.gui.judge.measure.error_page import ErrorPage
from pemlo.gui.judge.measure.findings import Findings
from pemlo.gui.judge.measure.measurer import files_of
from pemlo.gui.judge.measure.measuring import MeasureConditions
from pemlo.gui.judge.playback.play_bar import PlayBar
from pemlo.gui.judge.playback.player import Player
from pemlo.gui.judge.presenter import PictureChoice
from pemlo.gui.judge.viewer.canvas import Canvas, Mode
from pemlo.gui.judge.viewer.controls import PARTS, Controls
from pemlo.gui.judge.viewer.overlays import NO_MAP, NOISE_MAP, SOURCE_MAP, noise_overlay, source_overlay
from pemlo.gui.judge.viewer.pair import Pair
from pemlo.gui.judge.viewer.picture_row import ERRORS, LADDER, PICTURES, PictureRow
from pemlo.gui.judge.viewer.reader import PictureReader

if TYPE_CHECKING:
    from pemlo.core.appraisal.noise_sources import Sources
    from pemlo.core.appraisal.picture_comparison import PictureComparison
    from pemlo.core.files.sequence import Sequence
    from pemlo.core.pixels.box import Box
    from pemlo.gui.judge.viewer.canvas import Sizes

SIDES = ("left", "right")
RUNS = "judge runs"


class JudgePanel(QWidget):
    """The stage.

    Signals
    -------
    region_wanted(tuple)
        Shot, frame and region (left, top, right, bottom) that a new ladder is to be rendered of.
    trial_wanted(presenter.Missing)
        A trial to be rendered, without which a number cannot be had.
    """

    region_wanted = Signal(object)
    trial_wanted = Signal(object)

    def __init__(
        self, document: Document, jobs: Jobs, written: FileFacts, preferences: Preferences,
        report: Callable[[PemloError], None],
    ) -> None:  # fmt: skip
        super().__init__()
        self._document, self._jobs, self._written, self._report = document, jobs, written, report
        self._shot = self._shown = ""
        self._looked_at: object = None
        self._in_sequence = False
        self._chosen: tuple[PictureChoice | None, PictureChoice | None] = None, None
        self._blind = Blind()
        self.pair = Pair()
        self.viewer, self.findings = PictureReader(jobs), Findings(jobs, written)
        self.player = Player(jobs, self._how)
        self.row, self.canvas, self.controls, self.play_bar = PictureRow(), Canvas(), Controls(), PlayBar(self.player)
        self.ladder, self.errors = LadderPage(jobs, report), ErrorPage(jobs)
        self.sheet = Judgement(
            self.next_spot, self._on_region_to_trials, self._on_missing, ConditionsForm(preferences, report)
        )
        self.empty = label("", "second", wrap=True)
        self.viewer.request = replace(self.viewer.request, view=self.sheet.conditions.now.view)
        self.commands = Commands(self)
        self._lay_out()
        self._connect()

    def _lay_out(self) -> None:
        self.pictures = QWidget()
        column = QVBoxLayout(self.pictures)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.pages: dict[str, QWidget] = {PICTURES: self.canvas, LADDER: self.ladder, ERRORS: self.errors}
        for one in (self.row, *self.pages.values(), self.play_bar, self.controls):
            column.addWidget(one, int(one in self.pages.values()))
        for one in (self.ladder, self.errors):
            one.hide()
        whole = QHBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        self.empty.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.empty.setContentsMargins(24, 20, 24, 20)
        whole.addWidget(self.empty, 1)
        whole.addWidget(self.pictures, 1)
        whole.addWidget(self.sheet)

    def _connect(self) -> None:
        controls, canvas = self.controls, self.canvas
        controls.mode_chosen.connect(self.show_mode)
        controls.difference_chosen.connect(lambda times, signed: self.viewer.ask(times=times, signed=signed))
        controls.part_chosen.connect(self._on_part)
        controls.exposure_chosen.connect(self._on_exposure)
        controls.zoom_chosen.connect(lambda zoom: canvas.set_zoom(zoom) if zoom else canvas.fit())
        controls.map_chosen.connect(lambda _: self.show_map())
        self.row.picked.connect(self._on_picked)
        self.row.swapped.connect(self.swap_sides)
        self.row.page_chosen.connect(self.show_page)
        self.errors.trial_picked.connect(self._on_trial_picked)
        controls.export_wanted.connect(self.ladder.export)
        canvas.zoom_changed.connect(controls.show_zoom)
        canvas.hovered.connect(self._on_hovered)
        canvas.region_drawn.connect(self._on_region)
        self.ladder.pair_chosen.connect(self._on_pair)
        self.player.shown.connect(self._on_frame)
        self.viewer.ready.connect(self._on_ready)
        self.findings.changed.connect(self._say)
        self.findings.region_found.connect(self._on_region_found)
        self.sheet.marked.connect(self.mark)
        self.sheet.blind_chosen.connect(self._on_blind)
        self.sheet.conditions.changed.connect(self._on_conditions)
        self.sheet.conditions.viewing_chosen.connect(self._on_viewing)
        keys.install(self, self.commands)

    # What is shown

    @property
    def shot(self) -> str:
        """The shot that is shown."""
        return self._shot

    def show_project(self, project: Project, forecast: Forecast | None) -> None:
        """Show a project, and the forecast that goes with it if there is one."""
        names = [shot.name for shot in project.shots]
        if self._shot not in names:
            self._shot, self.pair = (names[0] if names else ""), Pair()
        new_forecast = forecast is not self.findings.forecast
        self.findings.forecast = forecast
        self._show_shot(project)
        if new_forecast:
            self.findings.ask_worth()

    def forget(self) -> None:
        """Forget what was shown of the film that was here before."""
        self._jobs.cancel(RUNS)
        self._shown, self.pair = "", Pair()

    def pick(self, names: tuple[str, ...]) -> None:
        """Show a shot: the first that is picked."""
        if names and names[0] != self._shot:
            self._shot, self.pair = names[0], Pair()
            if self.isVisible():
                self._show_shot(self._document.project)

    def _show_shot(self, project: Project) -> None:
        named = presenter.pictures_named(project, self._shot, self._document.path)
        sure = self._written.known(named)
        if not sure and self._shown == self._shot:
            return  # a picture came in: it is shown with the others when it is known
        self._shown = self._shot if sure else ""
        among = presenter.picture_choices(project, self._shot, self._document.path, self._is_there) if sure else ()
        left, right = (_as_it_is_now(one, among) for one in (self.pair.left, self.pair.right))
        if left is None and right is None:
            left, right = presenter.first_pair(among)
        self.pair = Pair(left, right, among)
        self.row.show_choices(among, left, right)
        for one in (self.pictures, self.sheet):
            one.setVisible(self.row.any)
        self.empty.setVisible(not self.row.any)
        self.empty.setText(
            f"No trial of {self._shot or 'the film'} has a picture yet. Render trials in Trials, or drop pictures on "
            "the window. Then compare them here, two at a time, and mark what is good enough."
            if sure
            else f"Looking for the pictures of {self._shot} …"
        )
        question = self.pair.question(self._how())
        files = {one.path for one in (left, right) if one is not None} | {*files_of(question)}
        if not self._written.known(files):
            return  # it is shown when they are
        looked_at = left and left.path, right and right.path, question, *map(self._written.of, sorted(files))
        if looked_at == self._looked_at:
            self._say()  # a forecast or a mark is new, the pictures are not
        else:
            self._looked_at = looked_at
            self._look()

    def _is_there(self, path: Path) -> bool:
        return self._written.of(path) is not None

    def _how(self) -> MeasureConditions:
        """Return how pictures are measured now."""
        request, viewing = self.viewer.request, self._document.project.delivery.seen_from
        return MeasureConditions(request.display(), request.reading(), viewing, self.sheet.conditions.now.as_seen)

    def _look(self) -> None:
        """Show and measure the two pictures."""
        self.canvas.spot = None
        self._in_sequence = self._in_sequence and (self.pair.left, self.pair.right) == self._chosen
        self._chosen = self.pair.left, self.pair.right
        self._blind.deal()
        shown = self._blind.ordered(self.pair.left, self.pair.right)
        self.viewer.ask(**{side: None if one is None else one.path for side, one in zip(SIDES, shown, strict=True)})
        self._find_runs()
        self.findings.ask(self.pair, self._how())
        if self._blind.on:
            self.findings.ask_right()
        self.sheet.show_region(None)
        self.show_page(self.page)

    def _find_runs(self) -> None:
        """See whether what is shown is part of a sequence."""
        pair, shown = self.pair, () if self._blind.on else (self.pair.left, self.pair.right)
        if any(one is not None and one.trial is None for one in shown):
            # Frames around a file lie in its folder, which may hold a hundred thousand.
            self._show_runs({})
            self._jobs.submit(
                RUNS, "Looking for frames around it", lambda _: presenter.runs_of(pair.left, pair.right, pair.among),
                self._show_runs,
            )  # fmt: skip
        else:
            self._jobs.cancel(RUNS)
            self._show_runs(presenter.runs_of(*shown, pair.among) if shown else {})

    def _show_runs(self, found: "dict[str, Sequence]") -> None:
        """Let sequences be played that the shown pictures are part of."""
        project = self._document.project
        shot = next((shot for shot in project.shots if shot.name == self._shot), None)
        rate = project.delivery.fps if shot is None else project.rate_of(shot)
        self.player.show_runs(found, rate, presenter.frame_shown(found, self.pair.left, self.pair.right))

    def _say(self) -> None:
        """Say everything that is not a picture."""
        sheet, project, hidden = self.sheet, self._document.project, self._blind.on
        left, right, found = self.pair.left, self.pair.right, self.findings.found
        titles = ("one", "the other") if hidden else tuple("" if one is None else one.title for one in (left, right))
        self.canvas.say(titles[0], "" if right is None else titles[1])
        self.row.hide_names(hidden=hidden)
        trial = None if left is None else left.trial
        where = "" if trial is None else f"{trial.shot}, frame {trial.frame}: {presenter.mark_words(trial)}"
        sheet.which.setText("the left one, whichever it is" if hidden else where)
        sheet.clear.setVisible(bool(trial and trial.mark) and not hidden)
        if any(shot.name == self._shot for shot in project.shots):
            ceiling = ceiling_of(project, self._shot)
            sheet.say_ceiling(
                presenter.ceiling_words(ceiling, self._shot),
                presenter.contradiction_words(ceiling),
                has_look=bool(project.shot(self._shot).look),
            )
        reference = self.pair.reference()
        against = "Left, the cleanest of its frame" if reference is None else "Left, against the reference"
        sheet.heading.setText("Numbers are hidden until you have marked" if hidden else against)
        set_tip(sheet.heading, "" if reference is None or hidden else f"The reference is {reference.name}")
        frames = next((shot.frame_count for shot in project.shots if shot.name == self._shot), 1)
        lines = (*presenter.number_lines(found), *presenter.time_line(left, right, frames))
        sheet.lines.show_lines(() if hidden else lines)
        sheet.spot.setVisible(not hidden and found is not None and found.measured.grain is not None)
        missing = self._missing()
        sheet.offer(missing.words if missing is not None and not hidden else "")
        sheet.conditions.show_viewing(project.delivery.seen_from)
        sheet.say_worth("" if hidden else self.findings.worth)
        sheet.sources.show_shares(*presenter.source_words(None if hidden else self.findings.sources))
        self.show_map()
        if self.page == ERRORS:
            self._show_errors()

    def show_map(self) -> None:
        """Lay over the pictures what was chosen, and what was found for it."""
        wanted = NO_MAP if self._blind.on or self._in_sequence else self.controls.map.currentText()
        grain = None if self.findings.found is None else self.findings.found.measured.grain
        sources = self.findings.sources
        self.canvas.overlay = None
        if wanted == NOISE_MAP and grain is not None:
            self.canvas.overlay = noise_overlay(grain.map)
        elif wanted == SOURCE_MAP and sources is not None:
            self.canvas.overlay = source_overlay(sources.map)
        lacking = wanted == SOURCE_MAP and sources is None
        self.controls.lacking.setText("the left picture does not tell its light apart" if lacking else "")
        self.canvas.update()

    def _on_ready(self, sizes: "dict[str, Sizes]") -> None:
        if not self._in_sequence:
            self.canvas.show_pictures(sizes)
        now, size = self.viewer.now, self.viewer.size
        self.controls.sizes.setText("")
        if now is not None and size is not None:
            own = {side: one.own_size for side, one in now.loaded.items()}
            self.controls.sizes.setText(presenter.size_words(own, size))
            self.controls.show_layers(next(iter(now.loaded.values())).layers)
        self.show_map()

    def _on_frame(self, _frame: int, sizes: "dict[str, Sizes]") -> None:
        """Show a frame of a sequence: what was measured and read of the chosen pictures is not of it."""
        self._in_sequence = True
        self.canvas.spot = None
        self.show_map()
        self.canvas.show_pictures(sizes)

    def _on_hovered(self, at: tuple[int, int] | None) -> None:
        hidden = at is None or self._blind.on or self._in_sequence
        values = {} if hidden or at is None else self.viewer.values_at(at)
        words = presenter.value_words(at, values)
        sources = self.findings.sources
        if values and at is not None and sources is not None and self.controls.map.currentText() == SOURCE_MAP:
            words += presenter.source_here(sources.map, at, self.viewer.size or at)
        self.controls.values.setText(words)

    # Choosing pictures

    def _on_picked(self, side: str, chosen: PictureChoice | None) -> None:
        if chosen is not None:
            self.pair = replace(self.pair, left=chosen) if side == "left" else replace(self.pair, right=chosen)
        self._show_shot(self._document.project)

    def show_files(self, paths: list[Path]) -> None:
        """Show files: one at the left, a second at the right; more can be chosen."""
        self._written.ask_anew(paths)
        taken = [self.row.take_file(path) for path in paths]
        if taken:
            self.show_pair(taken[0], taken[1] if len(taken) > 1 else None)

    def show_prediction(self, path: Path, name: str, beside: Path) -> None:
        """Show a picture that was predicted at the left, and another at the right."""
        right = next((one for one in self.pair.among if one.path == beside), None) or self.row.take_file(beside)
        self.show_pair(self.row.take_file(path, name), right)

    def show_pair(self, left: PictureChoice, right: PictureChoice | None) -> None:
        """Show two pictures."""
        self.pair = replace(self.pair, left=left, right=right or self.pair.right)
        self._show_shot(self._document.project)

    def swap_sides(self) -> None:
        """Put the left picture to the right."""
        if self.pair.left is not None and self.pair.right is not None:
            self.show_pair(self.pair.right, self.pair.left)

    def step(self, by: int) -> None:
        """Show the trial so many after the left one at the left."""
        among = self.pair.among
        if self.pair.left in among and not self._blind.on:
            self.show_pair(among[(among.index(self.pair.left) + by) % len(among)], None)

    # How they are shown

    def show_mode(self, mode: Mode) -> None:
        self.canvas.show_mode(mode)
        self.controls.show_mode(mode)

    def next_spot(self) -> None:
        """Go to the grainiest spot of the left picture, then to the next."""
        found = None if self.viewer.size is None else self.findings.next_spot(self.viewer.size[0])
        if found is not None:
            self.canvas.spot = found
            self.canvas.go_to(found[0])

    def _on_part(self, part: str) -> None:
        is_layer = part not in PARTS
        self.viewer.ask(layer=part if is_layer else "", part="colour" if is_layer else part)

    def _on_exposure(self, stops: float) -> None:
        self._show_anew(stops=stops)

    def _on_conditions(self, now: Conditions) -> None:
        self._show_anew(view=now.view, linear=now.linear)

    def _show_anew(self, **changes: object) -> None:
        self.viewer.ask(**changes)
        self.player.read_anew()
        self._show_shot(self._document.project)

    def _on_viewing(self, viewing: str) -> None:
        self._document.edit("Set where it is seen from", lambda project: set_delivery(project, seen_from=viewing))

    # Pages

    @property
    def page(self) -> str:
        """Which page is shown."""
        return self.row.page.currentText()

    def show_page(self, page: str) -> None:
        """Show the pictures, or a page that is made of all trials of the frame."""
        self.row.page.setCurrentText(page)
        for name, one in self.pages.items():
            one.setVisible(name == page)
        self.controls.show_page(page)
        size = self.viewer.size
        if page == LADDER and size is not None:
            self.ladder.show_pair(self.pair, size, part_around(self.canvas.centre, size), self._how())
        elif page == ERRORS:
            self.findings.ask_appearance()
            self._show_errors()

    def _show_errors(self) -> None:
        findings, trial = self.findings, None if self.pair.left is None else self.pair.left.trial
        known = any(shot.name == self._shot for shot in self._document.project.shots)
        ceiling = ceiling_of(self._document.project, self._shot).value if known else None
        self.errors.show_appearance(
            findings.appearance, findings.appearance_of_trials, trial, findings.forecast, ceiling
        )

    def _on_pair(self, left: PictureChoice, right: PictureChoice) -> None:
        self.show_page(PICTURES)
        self.show_pair(left, right)

    def _on_trial_picked(self, index: int) -> None:
        chosen = next((one for one in self.pair.among if one.index == index), None)
        if chosen is not None:
            self.show_page(PICTURES)
            self.show_pair(chosen, None)

    # A region

    def _on_region(self, box: "Box | None") -> None:
        self.sheet.show_region(None)
        if self.viewer.size is not None:
            self.findings.ask_region(box, self.viewer.size[0])

    def _on_region_found(self, found: "PictureComparison", sources: "Sources | None") -> None:
        box = self.canvas.region
        if box is not None and not self._blind.on:
            words = f"{box[2] - box[0]}×{box[3] - box[1]} px at {box[0]}, {box[1]}"
            lines = (*presenter.number_lines(found), *presenter.source_lines(sources))
            self.sheet.show_region(lines, words)

    def _on_region_to_trials(self) -> None:
        trial, size = None if self.pair.left is None else self.pair.left.trial, self.viewer.size
        if trial is None or self.canvas.region is None or size is None:
            return
        project = self._document.project
        across, down = (a / b for a, b in zip(project.size_of(project.shot(trial.shot)), size, strict=True))
        left, top, right, bottom = self.canvas.region
        region = round(left * across), round(top * down), round(right * across), round(bottom * down)
        self.region_wanted.emit((trial.shot, trial.frame, region))

    # What is missing

    def _missing(self) -> presenter.Missing | None:
        """Return the trial that would tell more, if the shot can be rendered here."""
        found = presenter.missing_trial(
            self.pair.left, self.findings.found, has_reference=self.pair.reference() is not None
        )
        project = self._document.project
        can_render = found is not None and any(s.name == found.shot and scene_of(s) for s in project.shots)
        return found if can_render else None

    def _on_missing(self) -> None:
        missing = self._missing()
        if missing is not None:
            self.trial_wanted.emit(missing)

    # Marks

    def mark(self, what: str) -> None:
        """Mark the left picture; empty takes a mark away."""
        if set_mark(self._document, self.pair, self._blind, self.findings, self.sheet, what, self._report):
            self.sheet.note.clear()
            self.sheet.blind.setChecked(False)

    def _on_blind(self, on: bool) -> None:  # noqa: FBT001 - Qt's signal carries it so
        self._blind.turn(on)
        self._look()


def _as_it_is_now(choice: PictureChoice | None, among: tuple[PictureChoice, ...]) -> PictureChoice | None:
    """Return a choice as the document has it now: a mark makes a trial another record, and edits move it."""
    if choice is None or choice.trial is None:
        return choice
    return next((one for one in among if one.path == choice.path), None)
