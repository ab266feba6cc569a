"""What hands change in Trade: levers, pins, options taken, plans adopted and kept - each one undo step. GUI thread."""

from collections.abc import Callable, Mapping, Sequence
from typing import TYPE_CHECKING

from pemlo.app.document import Document
from pemlo.app.selection import Selection
from pemlo.core.errors import PemloError
from pemlo.core.project.edits import add_trials, adopt, drop_plan, keep_plan, take_plan
from pemlo.core.project.guesses import guessed_trial
from pemlo.core.project.project import Project
from pemlo.core.project.settings import ALLOWABLE, CharacterLever, LeverName, ShotSettings
from pemlo.core.project.settings_text import settings_over
from pemlo.core.trade import lever_edits
from pemlo.core.trade.levers import lever_name

if TYPE_CHECKING:
    from pemlo.core.trade.planning import FilmPlan


class TradeEdits:
    """Changes the picked shots; steps of one drag merge until the hand lets go."""

    def __init__(
        self,
        document: Document,
        selection: Selection,
        report: Callable[[PemloError], None],
        refused: Callable[[], None],
    ) -> None:
        self._document, self._selection = document, selection
        self._report, self._refused = report, refused
        self._gesture = 0

    @property
    def picked(self) -> tuple[str, ...]:
        """The shots that are changed."""
        return self._selection.shots

    def let_go(self) -> None:
        """End a drag: what comes next is another step."""
        self._gesture += 1

    def _edit(self, text: str, change: Callable[[Project], Project]) -> bool:
        try:
            self._document.edit(text, change, f"{text} {self._gesture}")
        except PemloError as error:
            self._report(error)
            self._refused()
            return False
        return True

    def move(self, lever: LeverName, value: object) -> None:
        """Move a lever of the picked shots."""
        names = self.picked
        self._edit(
            f"Move {lever_name(lever)} of {_which(names)}",
            lambda project: lever_edits.set_lever(project, names, lever, value),
        )

    def pin(self, lever: LeverName, on: bool) -> None:  # noqa: FBT001 - Qt's signal carries it so
        """Hold a lever of the picked shots, or free it."""
        names = self.picked
        self.let_go()
        words = f"{'Hold' if on else 'Free'} {lever_name(lever)}"
        self._edit(words, lambda project: lever_edits.set_pin(project, names, lever, on=on))

    def allow(self, lever: CharacterLever, on: bool) -> None:  # noqa: FBT001 - as above
        """Let plans move a lever of the picked shots that changes what the picture is, or not."""
        names = self.picked
        self.let_go()
        words = f"{'Allow' if on else 'Lock'} {lever_name(lever)} of {_which(names)}"
        self._edit(words, lambda project: lever_edits.allow(project, names, lever, on=on))

    def allow_all(self, *, on: bool) -> None:
        """Let plans change what the picture is in all shots, or in none."""
        self.let_go()

        def change(project: Project) -> Project:
            names = [shot.name for shot in project.shots]
            for lever in ALLOWABLE:
                project = lever_edits.allow(project, names, lever, on=on)
            return project

        self._edit("Allow other pictures in all shots" if on else "Lock what pictures are in all shots", change)

    def all_as_asked(self) -> None:
        """Put every lever of the picked shots back."""
        names = self.picked
        self.let_go()
        self._edit("Put levers back", lambda project: lever_edits.as_asked(project, names))

    def type(self, field: str, text: str) -> None:
        """Set a field of the picked shots to what was typed."""
        names = self.picked
        self.let_go()
        self._edit(f"Set {field} of {names[0]}", lambda project: lever_edits.set_field(project, names, field, text))

    def guess(self, words: str, takes: str) -> bool:
        """Add a guess of what settings over what was asked take, of the first picked shot; return whether it could."""
        name = self.picked[0]

        def change(project: Project) -> Project:
            settings = settings_over(project.shot(name).asked, words)
            return add_trials(project, [guessed_trial(project, name, settings, takes)])

        self.let_go()
        return self._edit(f"Try a way of {name} on paper", change)

    def mark(self, what: str, note: str) -> None:
        """Mark the picked shots by eye, as their levers stand."""
        names = self.picked
        self.let_go()
        self._edit(f"Mark {names[0]} {what}", lambda project: lever_edits.mark_by_eye(project, names, what, note))

    def take_option(self, shot: str, settings: ShotSettings) -> None:
        """Take settings for a shot; pinned levers stay."""
        self._edit(f"Take an option of {shot}", lambda project: lever_edits.take(project, shot, settings))

    def take_steps(self, settings: Mapping[str, ShotSettings]) -> None:
        """Take settings of some shots, as they were proposed."""
        self.let_go()
        self._edit(f"Save in {_which(list(settings))}", lambda project: adopt(project, settings))

    def take_film(self, settings: Mapping[str, ShotSettings]) -> None:
        """Take settings for every shot, as the chart of the film is dragged."""
        self._edit("Take a plan of the film", lambda project: adopt(project, settings))

    def adopt(self, plan: "FilmPlan") -> None:
        """Adopt a plan."""
        self.let_go()
        self._edit("Adopt the plan", plan.taken)

    def keep(self, name: str) -> None:
        """Keep the settings as they stand under a name."""
        self._plan("Keep", name, keep_plan)

    def take(self, name: str) -> None:
        """Take a kept plan."""
        self._plan("Take", name, take_plan)

    def drop(self, name: str) -> None:
        """Drop a kept plan."""
        self._plan("Drop", name, drop_plan)

    def _plan(self, verb: str, name: str, change: Callable[[Project, str], Project]) -> None:
        self.let_go()
        self._edit(f"{verb} plan “{name}”", lambda project: change(project, name))


def _which(names: Sequence[str]) -> str:
    return names[0] if len(names) == 1 else f"{len(names)} shots"
