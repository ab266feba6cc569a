"""What the judge stage says: which pictures there are, what was measured, what passes. Qt-free."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from pemlo.app.picture_places import named_picture
from pemlo.core.errors import InputError
from pemlo.core.project.ceiling import Ceiling
from pemlo.core.project.edits import set_trial
from pemlo.core.project.project import Project
from pemlo.core.project.reference import cleanest, same_with_another_seed
from pemlo.core.project.spelling import settings_words
from pemlo.core.project.trials import BAD, GOOD, Mark, Trial
from pemlo.core.units import format_duration

if TYPE_CHECKING:
    from pemlo.core.appraisal.picture_comparison import PictureComparison
    from pemlo.core.files.sequence import Sequence


@dataclass(frozen=True)
class PictureChoice:
    """A picture that can be looked at: a trial's, by its place among all trials, or any file."""

    name: str
    path: Path
    trial: Trial | None = None
    index: int | None = None

    @property
    def title(self) -> str:
        """What stands on the picture."""
        return self.name if self.trial is None else f"{self.name} · {format_duration(self.trial.seconds)}"


def pictures_named(project: Project, shot: str, project_file: Path | None) -> tuple[Path, ...]:
    """Return where the pictures of a shot's trials should be."""
    named = (named_picture(trial, project_file) for trial in project.trials if trial.shot == shot)
    return tuple(path for path in named if path is not None)


def picture_choices(
    project: Project, shot: str, project_file: Path | None, is_there: Callable[[Path], bool]
) -> tuple[PictureChoice, ...]:
    """Return the trials of a shot whose pictures are there, by frame and then from coarse to fine."""
    choices = []
    for index, trial in enumerate(project.trials):
        path = named_picture(trial, project_file) if trial.shot == shot else None
        if path is not None and is_there(path):
            seed = "" if trial.seed is None else f", seed {trial.seed}"
            twin = same_with_another_seed(trial, project.trials)
            name = f"frame {trial.frame}, {settings_words(trial)}{seed if twin else ''}"
            choices.append(PictureChoice(name, path, trial, index))

    def order(choice: PictureChoice) -> tuple[int, float, float, str]:
        assert choice.trial is not None
        trial = choice.trial
        return trial.frame, trial.resolution_percent, trial.mean_samples or trial.samples, trial.denoise

    return tuple(sorted(choices, key=order))


def reference_of(choice: PictureChoice, among: Iterable[PictureChoice]) -> PictureChoice | None:
    """Return the reference of a picture's frame; None if it is the cleanest itself."""
    if choice.trial is None:
        return None
    same = [one for one in among if one.trial is not None and one.trial.frame == choice.trial.frame]
    best = cleanest(one.trial for one in same if one.trial is not None)
    found = next((one for one in same if one.trial is best), None)
    return None if found is None or found.path == choice.path else found


def second_of(choice: PictureChoice, among: Iterable[PictureChoice]) -> PictureChoice | None:
    """Return the picture with the same settings and another seed, if there is one."""
    if choice.trial is None:
        return None
    others = [one for one in among if one.trial is not None]
    twin = same_with_another_seed(choice.trial, [other.trial for other in others if other.trial is not None])
    return next((other for other in others if other.trial is twin), None)


def first_pair(among: tuple[PictureChoice, ...]) -> tuple[PictureChoice | None, PictureChoice | None]:
    """Return which two pictures to begin with: of the frame with most trials, one to be judged and the reference."""
    if not among:
        return None, None
    frames = [choice.trial.frame for choice in among if choice.trial is not None]
    busiest = max(dict.fromkeys(frames), key=frames.count, default=None)
    same = [choice for choice in among if choice.trial is not None and choice.trial.frame == busiest]
    best = cleanest(choice.trial for choice in same if choice.trial is not None)
    right = next((choice for choice in same if choice.trial is best), same[-1])
    others = [choice for choice in same if choice is not right]
    unmarked = [other for other in others if other.trial is not None and not other.trial.mark]
    left = (unmarked or others or [right])[-1]
    return left, right


def ceiling_words(ceiling: Ceiling, shot: str) -> str:
    """Return what passes, in a sentence."""
    if ceiling.accepted is None and ceiling.refused is None:
        return f"Nothing of {shot} is marked yet. The first “good enough” sets its error limit."
    if ceiling.accepted is None:
        return f"Refused from {ceiling.refused:.1f} levels. Nothing passed yet: mark a cleaner one."
    if ceiling.refused is None:
        limit = f"that is the error limit of {shot}, until a noisier one passes"
        return f"Accepted up to {ceiling.accepted:.1f} levels: {limit}."
    return (
        f"Accepted up to {ceiling.accepted:.1f}, refused from {ceiling.refused:.1f}: the error limit of {shot} is "
        f"{ceiling.accepted:.1f} levels."
    )


def contradiction_words(ceiling: Ceiling) -> str:
    """Return which marks contradict each other; empty if none do."""
    if not ceiling.against:
        return ""
    passed, refused = ceiling.against[0]
    more = f" (and {len(ceiling.against) - 1} more)" if len(ceiling.against) > 1 else ""
    return (
        f"A noisier one was accepted: {passed.name} has {passed.error:.1f} levels, {refused.name} with "
        f"{refused.error:.1f} was refused{more}."
    )


def mark(
    project: Project,
    choice: PictureChoice,
    what: Mark,
    picture_comparison: "PictureComparison | None",
    against: PictureChoice | None,
    note: str,
    mark_for: str,
) -> Project:
    """Return the project with a trial marked, and the error it had then.

    Raises
    ------
    InputError
        If the picture is not a trial's.
    """
    if choice.trial is None or choice.index is None:
        raise InputError("This picture is a file and no trial.", "Drop it into Trials first; then it can be marked.")
    error = (
        picture_comparison.measured.error.total.middle
        if picture_comparison is not None and picture_comparison.measured.error is not None
        else None
    )
    # The cleanest picture is what others are held against: it has no error of its own.
    if picture_comparison is not None and against is None and picture_comparison.measured.grain is not None:
        error = picture_comparison.measured.grain.mean
    name = "" if against is None or against.trial is None else against.trial.picture
    return set_trial(
        project,
        choice.index,
        mark=what,
        mark_size=False,
        note=note or choice.trial.note,
        mark_for=mark_for,
        error=None if error is None or not what else float(f"{error:.4g}"),
        error_against=name if what else "",
    )


def mark_words(trial: Trial | None) -> str:
    """Return how a trial is marked."""
    if trial is None or not trial.mark:
        return "not marked"
    at = "" if trial.error is None else f" at {trial.error:.1f} levels"
    return f"{'passes' if trial.mark == GOOD else 'does not pass'}{at}"


def mark_name(what: Mark) -> str:
    """Return what marking is called where it can be undone."""
    return {GOOD: "Mark good enough", BAD: "Mark not good enough"}.get(what, "Take the mark away")


def value_words(at: tuple[int, int] | None, values: dict[str, tuple[tuple[float, ...], tuple[float, ...]]]) -> str:
    """Return the place under the cursor, and what both pictures have there: light and display codes."""
    if at is None:
        return ""
    words = [f"x {at[0]}  y {at[1]}"]
    for name, (light, codes) in values.items():
        linear = " ".join(f"{value:.3f}" for value in light)
        words.append(f"{name} {linear}, levels {' '.join(f'{code:.0f}' for code in codes)}")
    return "   ".join(words)


def size_words(own: dict[str, tuple[int, int]], shown: tuple[int, int]) -> str:
    """Return which pictures were brought to the size that is shown."""
    changed = [f"{name} {w}×{h}" for name, (w, h) in own.items() if (w, h) != tuple(shown)]
    return f"{' and '.join(changed)} px brought to {shown[0]}×{shown[1]}" if changed else f"{shown[0]}×{shown[1]} px"


def run_of(choice: PictureChoice, among: Iterable[PictureChoice]) -> "Sequence | None":
    """Return the sequence that a picture is part of: trials of other frames with the same settings, or files beside it.

    None if it stands alone.
    """
    from pemlo.core.files.sequence import sequence_around, sequence_of  # noqa: PLC0415 - looks through folders: only here

    if choice.trial is not None:
        fields = choice.trial.frame_fields()
        same = {one.trial.frame: one.path for one in among if one.trial and one.trial.frame_fields() == fields}
        paths = {**same, choice.trial.frame: choice.path}
        found = sequence_around(settings_words(choice.trial), paths, choice.trial.frame)
    else:
        found = sequence_of(choice.path)
    return found if len(found.paths) > 1 else None


def runs_of(
    left: PictureChoice | None, right: PictureChoice | None, among: tuple[PictureChoice, ...]
) -> "dict[str, Sequence]":
    """Return the sequences that the two pictures are part of, by side."""
    found = {side: run_of(choice, among) for side, choice in (("left", left), ("right", right)) if choice is not None}
    return {side: run for side, run in found.items() if run is not None}


def frame_shown(runs: "dict[str, Sequence]", left: PictureChoice | None, right: PictureChoice | None) -> int:
    """Return which frame of their sequences the two pictures are; 1 without a sequence."""
    paths = {"left": left and left.path, "right": right and right.path}
    places = (frame for side, run in runs.items() for frame, path in run.paths.items() if path == paths[side])
    return next(places, 1)


def empty_words(shot: str, *, waiting: bool) -> str:
    """Return what stands in place of the pictures: there are none, or it is not known yet which there are."""
    if waiting:
        return f"Looking for the pictures of {shot} …"
    return (
        f"No trial of {shot or 'the film'} has a picture yet. Render trials in Trials, or drop pictures on the window. "
        "Then compare them here, two at a time, and mark what is good enough."
    )
