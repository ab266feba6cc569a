"""What passes: from the marks that people set, the largest error that is still good enough. Pure."""

from collections.abc import Sequence
from dataclasses import dataclass

from pemlo.core.project.lookup import same_look
from pemlo.core.project.project import Project
from pemlo.core.project.trials import GOOD, Trial


@dataclass(frozen=True)
class Marked:
    """A picture that somebody judged: what it is called, its error in display codes, and whether it passed."""

    name: str
    error: float
    passed: bool


@dataclass(frozen=True)
class Ceiling:
    """The largest error that passes.

    Attributes
    ----------
    accepted, refused : float, optional
        The bracket: the largest error that passed, and the smallest that did not, display codes; None where nothing
        was marked so.
    against : tuple of (Marked, Marked)
        Marks that contradict each other: one that passed, and one that is as clean or cleaner and did not.
    """

    accepted: float | None
    refused: float | None
    against: tuple[tuple[Marked, Marked], ...]

    @property
    def value(self) -> float | None:
        """What plans are held to: only what was seen and passed counts. None if nothing passed."""
        return self.accepted


def ceiling(marks: Sequence[Marked]) -> Ceiling:
    """Return the ceiling that marks set.

    Where marks contradict each other, the bracket is where the fewest of them are wrong, and the lower of two such
    places: a picture that was refused must not come back.

    Examples
    --------
    >>> found = ceiling([Marked("a", 1.0, True), Marked("b", 2.0, True), Marked("c", 3.0, False)])
    >>> found.accepted, found.refused, found.against
    (2.0, 3.0, ())
    """
    ordered = sorted(marks, key=lambda mark: mark.error)
    cuts = range(len(ordered) + 1)
    # All before a cut should have passed, all from there on should not.
    wrong = [
        sum(not mark.passed for mark in ordered[:cut]) + sum(mark.passed for mark in ordered[cut:]) for cut in cuts
    ]
    best = wrong.index(min(wrong))
    below = [mark.error for mark in ordered[:best] if mark.passed]
    above = [mark.error for mark in ordered[best:] if not mark.passed]
    against = tuple(
        (passed, refused)
        for passed in ordered
        for refused in ordered
        if passed.passed and not refused.passed and refused.error <= passed.error
    )
    return Ceiling(max(below, default=None), min(above, default=None), against)


def marks_of(project: Project, shot: str) -> tuple[Marked, ...]:
    """Return the marks that hold for a shot: its own, and those of shots of the same look that were set for all.

    Marks without a measured error say nothing of where the ceiling is.
    """
    alike = same_look(project, project.shot(shot))

    def holds(trial: Trial) -> bool:
        return trial.shot == shot or (trial.mark_for == "look" and trial.shot in alike)

    return tuple(
        Marked(f"{trial.shot}, frame {trial.frame}, {trial.samples} samples", trial.error, trial.mark == GOOD)
        for trial in project.trials
        if trial.mark and trial.error is not None and holds(trial)
    )


def ceiling_of(project: Project, shot: str) -> Ceiling:
    """Return the ceiling of a shot."""
    return ceiling(marks_of(project, shot))
