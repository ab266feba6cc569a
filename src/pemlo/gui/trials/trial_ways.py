"""By which way trials are rendered: the project's own command, its page, and whether it is allowed here. GUI thread."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QWidget

from pemlo.app import picture_places
from pemlo.app.document import Document
from pemlo.core.errors import InputError, PemloError
from pemlo.core.project.project import Project
from pemlo.core.project.render_ways import RenderWay
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.shots import Shot
from pemlo.core.trialrun import allowed
from pemlo.core.trialrun.run import planned
from pemlo.core.trialrun.session import machines_of
from pemlo.core.trialrun.spending import Choice, reach_of, renderable, task_of, way_named
from pemlo.core.units import listed
from pemlo.gui.trials.allow_form import AllowForm
from pemlo.gui.trials.way_form import WayForm
from pemlo.words.trial_runs import LEVER_WORDS, choice_words, command_words

NO_WAY = "How a frame of {} is rendered is not said yet."
NO_WAY_HINT = "Paste a command that renders one, in Trials: “My renderer…”."


class TrialWays(QObject):
    """The way of the project, or of the small renderer where it has none.

    Signals
    -------
    tried(RenderWay, Choice)
        A frame is to be rendered to try a way.
    """

    tried = Signal(object, object)

    def __init__(self, document: Document, report: Callable[[PemloError], None], parent: QWidget) -> None:
        super().__init__()
        self._document, self._report, self._parent = document, report, parent

    def shot(self, name: str) -> Shot | None:
        """Return a shot; None if there is none of that name."""
        return next((shot for shot in self._document.project.shots if shot.name == name), None)

    def way_for(self, shot: Shot | None) -> RenderWay | None:
        """Return the way that renders a shot: the project's first, or the small renderer's; None if none can."""
        way = way_named(self._document.project, "")
        return way if way is not None and shot is not None and renderable(way, shot) else None

    @property
    def base(self) -> Path:
        """The folder in which commands begin."""
        return picture_places.base_folder(self._document.path)

    def renderable_shots(self) -> frozenset[str]:
        """Return the shots that can be rendered here."""
        return frozenset(shot.name for shot in self._document.project.shots if self.way_for(shot) is not None)

    def why_not(self, shot: str, settings: FrameSettings) -> str:
        """Return why settings cannot be rendered; empty if they can."""
        found = self.shot(shot)
        way = self.way_for(found)
        if found is None or way is None:
            return NO_WAY.format(shot)
        reached = reach_of(way)(found, settings)
        differing = [
            words for lever, words in LEVER_WORDS.items() if getattr(reached, lever, 0) != getattr(settings, lever, 0)
        ]
        if not differing:
            return ""
        fields = "field for it" if len(differing) == 1 else "fields for them"
        return f"“{way.name}” cannot set {listed(differing)}: its command has no {fields}."

    def edit(self) -> None:
        """Show the page of the way to render; a new one if the project has none."""
        project = self._document.project
        way = project.render_ways[0] if project.render_ways else None
        self.way_form = WayForm(self._parent, project, way, allowed.own_ways(), self.dry_run, self._keep_way)
        self.way_form.open()

    def _keep_way(self, way: RenderWay, mine: bool, try_it: bool) -> None:  # noqa: FBT001 - as the form says them
        def change(project: Project) -> Project:
            others = tuple(one for one in project.render_ways[1:] if one.name != way.name)
            return project.replace(render_ways=(way, *others))

        self._document.edit(f"Set how a frame is rendered: {way.name}", change)
        try:
            allowed.allow(way, self.base)
            if mine:
                allowed.keep_way(way)
        except PemloError as error:
            self._report(error)
        if try_it:
            choice = self._first_choice(way)
            if choice is not None:
                self.tried.emit(way, choice)

    def _first_choice(self, way: RenderWay) -> Choice | None:
        """Return a frame to try a way with: the first shot that it can render, small and as asked otherwise."""
        shot = next((one for one in self._document.project.shots if renderable(way, one)), None)
        if shot is None:
            return None
        plan = FrameSettings.model_validate(shot.settings.frame_fields())
        half = FrameSettings.model_validate({**plan.frame_fields(), "resolution_percent": 50.0})
        return Choice(shot.name, shot.middle, reach_of(way)(shot, half), 0.0)

    def dry_run(self, way: RenderWay) -> list[str]:
        """Return the commands that would be run for a frame, a line each."""
        choice = self._first_choice(way)
        if choice is None:
            raise InputError("No shot of the brief has what the command needs.", "Give one its scene or camera.")
        return self.commands(way, choice)

    def commands(self, way: RenderWay, choice: Choice) -> list[str]:
        """Return the commands that render a frame, one for each machine that may do it."""
        path = self._document.path
        lines = [f"{choice_words(choice)}:"]
        for machine in machines_of(way):
            task = task_of(self._document.project, choice, 1)
            folder, base = picture_places.folder_for(path), picture_places.base_folder(path)
            command = planned(way, task, machine, folder, base)
            lines += [*([f"on {machine}"] if way.machines else []), command_words(command), f"in {command.folder}"]
        return lines

    def allow(self, way: RenderWay, then: Callable[[], None]) -> None:
        """Go on if a way's command is allowed on this computer; else show it, and ask."""
        if allowed.may_run(way, self.base):
            then()
            return

        def go() -> None:
            allowed.allow(way, self.base)
            then()

        self.allow_form = AllowForm(self._parent, way, self.dry_run(way), go)
        self.allow_form.open()
