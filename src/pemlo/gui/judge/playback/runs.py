"""Finds the sequences that the shown pictures are part of, and gives them to the player. GUI thread."""

from typing import TYPE_CHECKING

from pemlo.app.document import Document
from pemlo.app.jobs import Jobs
from pemlo.gui.judge import presenter
from pemlo.gui.judge.playback.player import Player
from pemlo.gui.judge.viewer.pair import Pair

if TYPE_CHECKING:
    from pemlo.core.files.sequence import Sequence

RUNS = "judge runs"


class RunFinder:
    """Looks for sequences of a pair of pictures."""

    def __init__(self, document: Document, jobs: Jobs, player: Player) -> None:
        self._document, self._jobs, self._player = document, jobs, player
        self._shot, self._pair = "", Pair()

    def find(self, shot: str, pair: Pair, *, hidden: bool) -> None:
        """Look whether the pictures of a shot are part of a sequence; hidden ones are not played."""
        self._shot, self._pair = shot, pair
        shown = () if hidden else (pair.left, pair.right)
        if any(choice is not None and choice.trial is None for choice in shown):
            # Frames around a file lie in its folder, which may hold a hundred thousand.
            self._show({})
            self._jobs.submit(
                RUNS, "Looking for frames around it", lambda _: presenter.runs_of(pair.left, pair.right, pair.among),
                self._show,
            )  # fmt: skip
        else:
            self.forget()
            self._show(presenter.runs_of(*shown, pair.among) if shown else {})

    def forget(self) -> None:
        """Stop looking."""
        self._jobs.cancel(RUNS)

    def _show(self, found: "dict[str, Sequence]") -> None:
        project = self._document.project
        shot = next((shot for shot in project.shots if shot.name == self._shot), None)
        rate = project.delivery.fps if shot is None else project.rate_of(shot)
        self._player.show_runs(found, rate, presenter.frame_shown(found, self._pair.left, self._pair.right))
