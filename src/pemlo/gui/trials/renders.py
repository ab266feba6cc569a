"""Which trials are rendered here: asked in a form, taken from advice, or worth some minutes; and by which way.

Those that landed are added to the document. GUI thread.
"""

from collections.abc import Callable, Sequence
from contextlib import suppress

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QWidget

from pemlo.app import picture_places
from pemlo.app.document import Document
from pemlo.app.jobs import Jobs
from pemlo.app.trial_queue import TrialQueue
from pemlo.core.cost.next_trial import Advice
from pemlo.core.errors import InputError, PemloError
from pemlo.core.progress import Monitor
from pemlo.core.project.edits import add_trials
from pemlo.core.project.project import Project
from pemlo.core.project.render_ways import RenderWay
from pemlo.core.project.repeated import incoming
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.trials import Trial
from pemlo.core.trialrun import allowed
from pemlo.core.trialrun.landed import Landed, from_record
from pemlo.core.trialrun.run import records
from pemlo.core.trialrun.session import mark_taken, not_taken
from pemlo.core.trialrun.speeds import with_learned_speed
from pemlo.core.trialrun.spending import Choice, Order, way_named
from pemlo.core.units import counted
from pemlo.gui.common.problem_bar import Offer
from pemlo.gui.trials import render_words
from pemlo.gui.trials.render_form import RenderForm
from pemlo.gui.trials.spend_form import SpendForm
from pemlo.gui.trials.trial_ways import NO_WAY, NO_WAY_HINT, TrialWays
from pemlo.words.trial_runs import (
    not_reachable_words,
    speed_words,
)

NOTE, LOOK = "noting trials", "finished trials"


class TrialRenders(QObject):
    """Asks for trials to be rendered, and takes in what was.

    Signals
    -------
    shot_wanted(str)
        Another shot should be shown.
    """

    shot_wanted = Signal(str)

    def __init__(
        self,
        document: Document,
        jobs: Jobs,
        queue: TrialQueue,
        report: Callable[[PemloError], None],
        offer: Offer,
        parent: QWidget,
    ) -> None:
        super().__init__()
        self._document, self._jobs, self.queue = document, jobs, queue
        self._report, self._parent = report, parent
        self._offer = offer
        self.ways = TrialWays(document, report, parent)
        self.ways.tried.connect(lambda way, choice: self._render(way, [choice]))
        queue.landed.connect(self.take_landed)
        document.history.clean_changed.connect(self._on_saved)
        document.replaced.connect(self.offer_finished)

    # What is rendered

    def ask(
        self,
        of_shot: str,
        picked: Trial | None = None,
        of_frame: int | None = None,
        region: render_words.Region | None = None,
    ) -> None:
        """Ask which trials of a shot to render; the form begins with the picked trial, or with what is asked."""
        project = self._document.project
        shot = self.ways.shot(of_shot)
        way = self.ways.way_for(shot)
        if shot is None or way is None:
            what = "No shot is shown." if shot is None else NO_WAY.format(shot.name)
            self._report(InputError(what, "Add one in the brief." if shot is None else NO_WAY_HINT))
            return
        frame = picked.frame if picked else shot.middle
        settings: FrameSettings = picked or shot.settings
        frame = frame if of_frame is None else of_frame

        def wanted(typed: dict[str, str]) -> list[Choice]:
            requests = render_words.wanted(project, shot, typed)
            for request in requests:
                why = self.ways.why_not(shot.name, request.settings)
                if why:
                    raise InputError(why)
            return [Choice(shot.name, one.frame, one.settings, 0.0, region=one.region) for one in requests]

        def count(typed: dict[str, str]) -> str:
            found = wanted(typed)
            return f"{len(found)} frames, each a trial when it is done" if len(found) > 1 else "1 frame"

        def start(typed: dict[str, str]) -> None:
            self._render(way, wanted(typed))

        def dry_run(typed: dict[str, str]) -> list[str]:
            return [line for choice in wanted(typed) for line in self.ways.commands(way, choice)]

        begin = render_words.beginning(settings, frame, region)
        self.form = RenderForm(self._parent, shot.name, way.name, begin, count, dry_run, start)
        self.form.open()

    def take_advice(self, advice: Advice) -> None:
        """Render the trial that is advised next."""
        self.render_one(advice.shot, advice.frame, advice.settings, advice.seconds)
        self.shot_wanted.emit(advice.shot)

    def render_one(self, shot: str, frame: int, settings: FrameSettings, seconds: float = 0.0) -> None:
        """Render one trial."""
        settings = FrameSettings.model_validate(settings.frame_fields())
        why = self.ways.why_not(shot, settings)
        way = self.ways.way_for(self.ways.shot(shot))
        if why or way is None:
            self._report(InputError(why, NO_WAY_HINT if way is None else "Time it by hand, or add the field."))
            return
        self._render(way, [Choice(shot, frame, settings, seconds)])

    def ask_to_spend(self, picked: Sequence[str]) -> None:
        """Ask how much time is spent on trials."""
        way = way_named(self._document.project, "")
        if way is None or not self.ways.renderable_shots():
            self._report(InputError("How a frame is rendered is not said yet.", NO_WAY_HINT))
            return

        def start(minutes: float, order: Order, shots: tuple[str, ...]) -> None:
            self.ways.allow(way, lambda: self.queue.spend(way, minutes, order, shots))

        shots = [name for name in picked if name in self.ways.renderable_shots()]
        self.spend_form = SpendForm(self._parent, way.name, not_reachable_words(way), shots, start)
        self.spend_form.open()

    def _render(self, way: RenderWay, choices: Sequence[Choice]) -> None:
        try:
            self.ways.allow(way, lambda: self.queue.add(way, choices))
        except PemloError as error:
            self._report(error)

    # What came back

    def take_landed(self, found: Landed) -> None:
        """Add the trial of a frame that was rendered."""
        trial = found.trial
        if trial is None and self.queue.left_s is None:
            task = found.run.task
            hint = "Fix its command, “My renderer…”, or look at what it wrote."
            self._report(InputError(f"Frame {task.frame} of {task.shot} is no trial: {found.why}", hint))
        if trial is None or self.ways.shot(trial.shot) is None:
            return

        def change(project: Project) -> Project:
            return with_learned_speed(add_trials(project, [trial]), trial.machine)

        before = self._document.project
        words = speed_words(before, change(before), trial.machine)
        self._document.edit(f"Render a trial of {trial.shot}{f': {words}' if words else ''}", change)

    def _on_saved(self, clean: bool) -> None:  # noqa: FBT001 - Qt's own
        """Note that the trials of this session are in the project's file."""
        folders = [row.landed.run.folder for row in self.queue.rows if row.landed is not None]
        if clean and folders:
            self._jobs.submit(NOTE, "Noting trials", lambda _: mark_taken(folders), lambda _: None, brief=True)

    def offer_finished(self) -> None:
        """Offer trials that had ended when the program was killed, and are in no project."""
        path = self._document.path
        if path is None:
            return
        pictures, base = picture_places.folder_for(path), self.ways.base

        def look(_: Monitor) -> list[Trial]:
            found = []
            for folder in not_taken(records(pictures)):
                with suppress(InputError):
                    landed = from_record(folder)
                    # A record that came with the project is no measurement of this computer.
                    if landed.trial is not None and allowed.may_run(landed.run.way, base):
                        found.append(landed.trial)
            return found

        self._jobs.submit(LOOK, "Looking for finished trials", look, self._on_finished_found, brief=True)

    def _on_finished_found(self, found: list[Trial]) -> None:
        known = [trial for trial in found if self.ways.shot(trial.shot) is not None]
        new = incoming(self._document.project, known).new
        if not new:
            return

        def take() -> None:
            self._document.edit(
                f"Take in {counted(len(new), 'trial')}", lambda project: add_trials(project, incoming(project, new).new)
            )

        are = "trial is" if len(new) == 1 else "trials are"
        self._offer(f"{len(new)} finished {are} not in the project: Pemlo ended before.", "", "Take in", take)
