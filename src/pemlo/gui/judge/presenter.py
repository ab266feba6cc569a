"""What the judge stage says: which pictures there are, what was measured, what passes. Qt-free."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from pemlo.app.picture_places import named_picture
from pemlo.core.errors import InputError
from pemlo.core.measure import noise_sources
from pemlo.core.predict.denoise_worth import DenoiseWorth
from pemlo.core.project.ceiling import Ceiling
from pemlo.core.project.edits import set_trial
from pemlo.core.project.project import Project
from pemlo.core.project.reference import cleanest, same_with_another_seed
from pemlo.core.project.settings import MOST_SAMPLES, NO_DENOISE, FrameSettings
from pemlo.core.project.spelling import settings_words
from pemlo.core.project.trials import BAD, GOOD, Mark, Trial
from pemlo.core.trade.saving import saving
from pemlo.core.units import format_duration
from pemlo.gui.common.columns import Role

if TYPE_CHECKING:
    from pemlo.core.appraisal.noise_sources import SourceMap, Sources
    from pemlo.core.appraisal.picture_comparison import PictureComparison
    from pemlo.core.files.sequence import Sequence
    from pemlo.core.predict.error_model import ErrorModel


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
    found = []
    for index, trial in enumerate(project.trials):
        path = named_picture(trial, project_file) if trial.shot == shot else None
        if path is not None and is_there(path):
            seed = "" if trial.seed is None else f", seed {trial.seed}"
            twin = same_with_another_seed(trial, project.trials)
            name = f"frame {trial.frame}, {settings_words(trial)}{seed if twin else ''}"
            found.append(PictureChoice(name, path, trial, index))

    def order(choice: PictureChoice) -> tuple[int, float, float, str]:
        assert choice.trial is not None
        trial = choice.trial
        return trial.frame, trial.resolution_percent, trial.mean_samples or trial.samples, trial.denoise

    return tuple(sorted(found, key=order))


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
    twin = same_with_another_seed(choice.trial, [one.trial for one in others if one.trial is not None])
    return next((one for one in others if one.trial is twin), None)


def first_pair(among: tuple[PictureChoice, ...]) -> tuple[PictureChoice | None, PictureChoice | None]:
    """Return which two pictures to begin with: of the frame with most trials, one to be judged and the reference."""
    if not among:
        return None, None
    frames = [one.trial.frame for one in among if one.trial is not None]
    busiest = max(dict.fromkeys(frames), key=frames.count, default=None)
    same = [one for one in among if one.trial is not None and one.trial.frame == busiest]
    best = cleanest(one.trial for one in same if one.trial is not None)
    right = next((one for one in same if one.trial is best), same[-1])
    others = [one for one in same if one is not right]
    unmarked = [one for one in others if one.trial is not None and not one.trial.mark]
    left = (unmarked or others or [right])[-1]
    return left, right


@dataclass(frozen=True)
class Line:
    """One measured number: what it is, what it says, what it means, and how it is inked."""

    name: str
    text: str
    tip: str
    role: Role = "picture"


def number_lines(found: "PictureComparison | None") -> tuple[Line, ...]:
    """Return what was measured of the left picture, line by line; what is not known says what is missing."""
    if found is None:
        return ()
    measured, error = found.measured, found.measured.error
    lines = [_error_line(found), _grain_line(found)]
    if error is not None:
        lines.append(_softening_line(found))
        if error.scaling:
            lines.append(
                Line("scaling", f"{error.scaling:.1f}", "What rendering smaller loses, as the reference itself shows")
            )
    share = measured.fireflies.energy_share
    lines.append(
        Line(
            "fireflies",
            f"{measured.fireflies.count}, {share:.1%} of light" if measured.fireflies.count else "none",
            "Single pixels that outshine their neighbours threefold, and which share of the light they have too much",
            "ink",
        )
    )
    if found.scores is not None:
        scores = found.scores
        lines.append(
            Line(
                "ꟻLIP, SSIM, PSNR",
                f"{scores.flip:.3f}, {scores.ssim:.3f}, {scores.psnr:.1f} dB",
                f"Published scores against the reference; ꟻLIP seen at {found.pixels_per_degree:.0f} px a degree. "
                "Equal pictures have 0, 1, and no end",
                "ink",
            )
        )
    if measured.bad:
        lines.append(Line("no numbers", f"{measured.bad} pixels", "Infinity or “not a number”: left out", "limit"))
    return tuple(lines)


def _error_line(found: "PictureComparison") -> Line:
    error = found.measured.error
    if error is None:
        return Line("error", "needs a cleaner trial", "Render this frame with more samples: it becomes the reference",
                    "faint")  # fmt: skip
    total = error.total
    tip = "Root mean square difference to the reference, in codes of an 8-bit display, with its 90 % interval"
    if error.reference_noise is None:
        tip += ". The reference's own noise is not known, and counts as error"
    return Line("error", f"{total.value:.1f} ({total.low:.1f}–{total.high:.1f})", tip)


def _grain_line(found: "PictureComparison") -> Line:
    grain = found.measured.grain
    if grain is None:
        return Line("grain", "needs another seed", "Render this frame once more with another seed", "faint")
    bound = "≤ " if grain.upper_bound else ""
    how = f"Noise of the picture, from {'its ' if grain.how == 'variance channel' else ''}{grain.how}"
    more = ". An upper bound: texture counts too" if grain.upper_bound else ""
    tip = f"{how}, in codes{more}. One tile in twenty is worse than the second number; the worst spot may be far worse"
    return Line("grain", f"{bound}{grain.mean:.1f}, worst {bound}{grain.worst:.1f}", tip)


def _softening_line(found: "PictureComparison") -> Line:
    error = found.measured.error
    assert error is not None
    tip = "What is left of the error without grain: detail that is washed out or moved"
    if error.softening is None:
        return Line("softening", "needs another seed", "Render this frame once more with another seed", "faint")
    value = error.softening
    if value.high == 0:
        return Line("softening", "none, not denoised", tip)
    if value.low <= 0:
        return Line("softening", f"none seen (≤ {value.high:.1f})", tip)
    return Line("softening", f"{value.value:.1f} ({value.low:.1f}–{value.high:.1f})", tip)


def time_line(left: PictureChoice | None, right: PictureChoice | None, frames: int) -> tuple[Line, ...]:
    """Return what the left trial took, and saves against the right one, over so many frames of the shot."""
    if left is None or left.trial is None:
        return ()
    took = format_duration(left.trial.seconds)
    if right is None or right.trial is None or right.path == left.path:
        return (Line("a frame took", took, "As it was timed, on its machine", "time"),)
    found = saving(right.trial.seconds, left.trial.seconds, frames)
    tip = f"Against the right picture, as both were timed: {found}"
    return (Line("a frame took", f"{took}, {-100 * found.share:+.0f} %".replace("-", "−"), tip, "time"),)


def ceiling_words(found: Ceiling, shot: str) -> str:
    """Return what passes, in a sentence."""
    if found.accepted is None and found.refused is None:
        return f"Nothing of {shot} is marked yet. The first “good enough” sets its ceiling."
    if found.accepted is None:
        return f"Refused from {found.refused:.1f} codes. Nothing passed yet: mark a cleaner one."
    if found.refused is None:
        return f"Accepted up to {found.accepted:.1f} codes: that is the ceiling of {shot}, until a noisier one passes."
    return (
        f"Accepted up to {found.accepted:.1f}, refused from {found.refused:.1f}: the ceiling of {shot} is "
        f"{found.accepted:.1f} codes."
    )


def contradiction_words(found: Ceiling) -> str:
    """Return which marks contradict each other; empty if none do."""
    if not found.against:
        return ""
    passed, refused = found.against[0]
    more = f" (and {len(found.against) - 1} more)" if len(found.against) > 1 else ""
    return (
        f"A noisier one was accepted: {passed.name} has {passed.error:.1f} codes, {refused.name} with "
        f"{refused.error:.1f} was refused{more}."
    )


def mark(
    project: Project,
    choice: PictureChoice,
    what: Mark,
    found: "PictureComparison | None",
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
    error = found.measured.error.total.value if found is not None and found.measured.error is not None else None
    # The cleanest picture is what others are held against: it has no error of its own.
    if found is not None and against is None and found.measured.grain is not None:
        error = found.measured.grain.mean
    name = "" if against is None or against.trial is None else against.trial.picture
    return set_trial(
        project,
        choice.index,
        mark=what,
        note=note or choice.trial.note,
        mark_for=mark_for,
        error=None if error is None or not what else float(f"{error:.4g}"),
        error_against=name if what else "",
    )


def mark_words(trial: Trial | None) -> str:
    """Return how a trial is marked."""
    if trial is None or not trial.mark:
        return "not marked"
    at = "" if trial.error is None else f" at {trial.error:.1f} codes"
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
        words.append(f"{name} {linear}, codes {' '.join(f'{code:.0f}' for code in codes)}")
    return "   ".join(words)


def size_words(own: dict[str, tuple[int, int]], shown: tuple[int, int]) -> str:
    """Return which pictures were brought to the size that is shown."""
    changed = [f"{name} {w}×{h}" for name, (w, h) in own.items() if (w, h) != tuple(shown)]
    return f"{' and '.join(changed)} px brought to {shown[0]}×{shown[1]}" if changed else f"{shown[0]}×{shown[1]} px"


def denoise_words(
    choice: PictureChoice, found: "PictureComparison | None", model: "ErrorModel | None", seconds_without: float | None
) -> str:
    """Return whether denoising is worth it, or what is missing to say so; empty for a picture without."""
    trial = choice.trial
    if trial is None or trial.denoise == NO_DENOISE:
        return ""
    if found is None or found.measured.error is None:
        return "Whether denoising is worth it: needs a cleaner trial of this frame without denoising."
    if model is None or seconds_without is None:
        return "Whether denoising is worth it: needs a trial of this frame with its variance, without denoising."
    error = found.measured.error
    softening = None if error.softening is None else (error.softening.value if error.softening.low > 0 else 0.0)
    samples = trial.mean_samples or trial.samples
    equal = model.curve.samples_for(max(error.total.value, 1e-3))
    return str(DenoiseWorth(samples, equal, trial.seconds, seconds_without, softening))


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
    found = {side: run_of(one, among) for side, one in (("left", left), ("right", right)) if one is not None}
    return {side: run for side, run in found.items() if run is not None}


def frame_shown(runs: "dict[str, Sequence]", left: PictureChoice | None, right: PictureChoice | None) -> int:
    """Return which frame of their sequences the two pictures are; 1 without a sequence."""
    paths = {"left": left and left.path, "right": right and right.path}
    places = (frame for side, run in runs.items() for frame, path in run.paths.items() if path == paths[side])
    return next(places, 1)


def source_here(found: "SourceMap", at: tuple[int, int], shown: tuple[int, int]) -> str:
    """Return where the noise comes from at a pixel of a picture that is shown at a size."""
    x, y = (min(place * own // size, own - 1) for place, own, size in zip(at, found.size, shown, strict=True))
    name, share = found.at(x, y)
    return f"   noise from {name}, {share:.0%}"


def source_words(found: "Sources | None") -> tuple[dict[str, float], str]:
    """Return each source's share of the noise, largest first, and how rays are better shared out."""
    if found is None or not found.sources:
        return {}, ""
    share = noise_sources.shares(found.rest, found.sources)
    ordered = dict(sorted(share.items(), key=lambda pair: (pair[0] == "rest", -pair[1])))
    return ordered, noise_sources.words(found.rest, found.sources)


@dataclass(frozen=True)
class Missing:
    """A trial without which a number cannot be had, and what asking for it says."""

    words: str
    shot: str
    frame: int
    settings: FrameSettings


def missing_trial(
    choice: PictureChoice | None, found: "PictureComparison | None", *, has_reference: bool
) -> Missing | None:
    """Return the trial that would tell what is not known of a picture; None if nothing is missing."""
    if choice is None or choice.trial is None or found is None:
        return None
    trial = choice.trial
    settings = FrameSettings.model_validate(trial.frame_fields())
    error = found.measured.error
    if not has_reference and trial.denoise != NO_DENOISE:
        samples = min(4 * trial.samples, MOST_SAMPLES)
        cleaner = settings.changed(samples=samples, noise_threshold=None, min_samples=None, denoise=NO_DENOISE)
        return Missing(f"Render a reference: {samples} samples, not denoised", trial.shot, trial.frame, cleaner)
    if error is not None and error.softening is None:
        return Missing("Render this frame once more with another seed", trial.shot, trial.frame, settings)
    return None


def source_lines(found: "Sources | None") -> tuple[Line, ...]:
    """Return which source dominates the noise of a region; nothing where the picture does not tell."""
    share, _ = source_words(found)
    if not share:
        return ()
    name, most = max(share.items(), key=lambda pair: pair[1])
    tip = ", ".join(f"{one} {part:.0%}" for one, part in share.items())
    return (Line("noise from", f"{name}, {most:.0%}", f"Shares of the noise's variance: {tip}"),)
