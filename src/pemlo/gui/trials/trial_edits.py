"""Changes of trials: typed, pasted, from a table, left out, removed - each one undo step. GUI thread."""

from collections.abc import Callable, Mapping, Sequence
from pathlib import Path

from PySide6.QtWidgets import QWidget

from pemlo.app.document import Document
from pemlo.app.jobs import Jobs
from pemlo.app.table_reader import TableReader
from pemlo.core.cost.next_trial import Advice
from pemlo.core.errors import PemloError
from pemlo.core.persistence.csv_trials import READ as TRIAL_TABLE
from pemlo.core.persistence.csv_trials import read_trials
from pemlo.core.persistence.picture_names import whole_names
from pemlo.core.project.edits import add_trials, remove_trials, set_trial
from pemlo.core.project.project import Project
from pemlo.core.project.repeated import Incoming, incoming, timed_again
from pemlo.core.project.trials import BAD, GOOD, Mark, Trial
from pemlo.core.trade.lever_edits import like_trial
from pemlo.core.units import format_duration
from pemlo.gui.common.problem_bar import Offer
from pemlo.gui.common.size_question import ask_of_size
from pemlo.gui.trials import presenter
from pemlo.gui.trials.trial_columns import TrialRow
from pemlo.words.disagreements import Answer

LEFT_OUT_BY_HAND = "by hand"


def read_table(text: str, project: Project, path: Path, said: Mapping[str, str]) -> tuple[Trial, ...]:
    """Read the trials of a table; pictures are named from where it lies. Any thread."""
    return whole_names(read_trials(text, project, path.name, said), path.parent)


class TrialEdits:
    """What hands do with trials; trouble is reported, and nothing is half done."""

    def __init__(
        self,
        document: Document,
        report: Callable[[PemloError], None],
        show_shot: Callable[[str], None],
        tables: TableReader,
        offer: Offer,
    ) -> None:
        self._document, self._report, self._show_shot, self._tables = document, report, show_shot, tables
        self._offer = offer

    def type(self, shot: str, typed: dict[str, str]) -> bool:
        """Add the trial of a shot that was typed; return whether it could be."""
        if not shot:
            return False
        try:
            self.add(presenter.typed_trial(self._document.project, shot, typed))
        except PemloError as error:
            self._report(error)
            return False
        return True

    def add(self, trial: Trial) -> None:
        """Add a trial, and show its shot."""
        self._bring_in(f"Add a trial of {trial.shot}", [trial])
        self._show_shot(trial.shot)

    def by_hand(self, parent: QWidget, jobs: Jobs, advice: Sequence[Advice], shot: str) -> None:
        """Show the list of trials to take along, those of a shot first, with the stopwatch."""
        from pemlo.gui.trials.by_hand import ByHand  # noqa: PLC0415 - only where it is wanted

        self.hand = ByHand(parent, self._document.project, advice, shot, self.put, jobs)
        self.hand.open()

    def paste(self, shot: str, text: str) -> None:
        """Add the trials of a shot that were copied from a table."""

        def put(trials: Sequence[Trial]) -> None:
            self._bring_in(f"Paste {_count(len(trials))}", trials)

        def reader() -> Callable[[str, str, Mapping[str, str]], tuple[Trial, ...]]:
            project = self._document.project
            return lambda text, name, said: read_trials(text, project, name, said)

        try:
            table = presenter.pasted_table(text, shot)
        except PemloError as error:
            self._report(error)
            return
        self._tables.take_pasted(table, reader, put, lambda *_: TRIAL_TABLE)

    def put_copied(self, shot: str, trials: Sequence[Trial]) -> None:
        """Add trials that were copied whole, as trials of a shot."""
        self._bring_in(f"Paste {_count(len(trials))}", [trial.replace(shot=shot) for trial in trials])

    def put(self, trials: Sequence[Trial]) -> None:
        """Add the trials of a table."""
        self._bring_in(f"Bring in {_count(len(trials))}", trials)

    def _bring_in(self, what: str, trials: Sequence[Trial]) -> None:
        """Add trials; of those that are here already ask whether they were timed again."""
        found = incoming(self._document.project, trials)
        if found.new or not found.here:
            self._document.edit(what, lambda project: add_trials(project, found.new))
        if found.here:
            words = already_here_words(found, len(trials))
            self._offer(words, "", "Add as timed again", lambda: self._add_again(found.here))

    def _add_again(self, trials: Sequence[Trial]) -> None:
        self._document.edit(
            f"Add {_count(len(trials))} timed again",
            lambda project: add_trials(project, timed_again(project, trials)),
        )

    def leave_out(self, rows: Sequence[TrialRow]) -> None:
        """Leave trials out of the forecast, or take them in again if all of them are left out."""
        why = "" if all(row.trial.left_out for row in rows) else LEFT_OUT_BY_HAND
        what = _count(len(rows))
        self._set(rows, f"Leave out {what}" if why else f"Take in {what}", left_out=why)

    def answer(self, given: Answer) -> None:
        """Leave out the trials that an answer says are not what was asked."""

        def change(project: Project) -> Project:
            for index in given.trials:
                project = set_trial(project, index, left_out=given.why)
            return project

        self._document.edit(f"Leave out {_count(len(given.trials))}: {given.why}", change)

    def plan_like(self, rows: Sequence[TrialRow]) -> None:
        """Plan shots as their trials were rendered; of several trials of a shot the last counts."""
        indices = [row.index for row in rows]

        def change(project: Project) -> Project:
            for index in indices:
                project = like_trial(project, index)
            return project

        if rows:
            names = list(dict.fromkeys(row.trial.shot for row in rows))
            where = names[0] if len(names) == 1 else f"{len(names)} shots"
            self._document.edit(f"Plan {where} like a trial", change)

    def mark(self, rows: Sequence[TrialRow], what: Mark) -> None:
        """Mark trials by eye; marked so already, their marks are taken away. An error that was measured stays."""
        wanted: Mark = "" if all(row.trial.mark == what for row in rows) else what
        words = {GOOD: "good enough", BAD: "not good enough"}.get(wanted, "with no mark")
        self._set(rows, f"Mark {_count(len(rows))} {words}", mark=wanted, mark_size=False)
        if wanted == GOOD:
            ask_of_size(self._document, [row.index for row in rows], self._offer)

    def _set(self, rows: Sequence[TrialRow], words: str, **fields: object) -> None:
        indices = [row.index for row in rows]

        def change(project: Project) -> Project:
            for index in indices:
                project = set_trial(project, index, **fields)
            return project

        if rows:
            self._document.edit(words, change)

    def remove(self, rows: Sequence[TrialRow]) -> None:
        """Remove trials."""
        indices = [row.index for row in rows]
        self._document.edit(f"Remove {_count(len(rows))}", lambda project: remove_trials(project, indices))


def _count(number: int) -> str:
    return "a trial" if number == 1 else f"{number} trials"


def already_here_words(found: Incoming, many: int) -> str:
    """Return which of the trials that came in are here already."""
    first = found.here[0]
    row = f"frame {first.frame} of {first.shot} in {format_duration(first.seconds)}"
    if many == 1:
        return f"This trial is already here ({row}), and counts once."
    if not found.new:
        return f"All {many} trials are already here, and were not added (the first: {row})."
    return f"{len(found.here)} of the {many} trials are already here, and were not added again (the first: {row})."
