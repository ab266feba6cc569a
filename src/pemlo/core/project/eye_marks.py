"""What passes by eye: marks on settings, and what follows from them for settings that nobody has looked at. Pure.

A mark is about noise and denoising at the size that is asked for: people render smaller to test faster, and do not
mean to deliver that. What passed at a smaller size needs more samples at the size asked for; and its own size passes
only where its owner said so.

Settings at least as good as passed ones in every lever pass; those at least as bad as refused ones do not; for all
between, somebody has to look first. Levers that make a picture other rather than better - denoising, switches - are
never better or worse: marks say nothing across them.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from pemlo.core.project.lookup import same_look
from pemlo.core.project.project import Project
from pemlo.core.project.settings import MOST_SAMPLES, FrameSettings, ShotSettings
from pemlo.core.project.spelling import settings_words
from pemlo.core.project.trials import GOOD, Trial

_ROUND = 1e-9  # of what rounding leaves above a whole number
Verdict = Literal["passes", "does not pass", "look first"]


@dataclass(frozen=True)
class EyeMark:
    """Settings that somebody judged by eye.

    Attributes
    ----------
    name : str
        Where they were judged, as people call it.
    settings : ShotSettings
    passed : bool
    note : str
    frame : int, optional
        The frame that was judged; None for the whole shot.
    seen_at : FrameSettings, optional
        What was looked at, where that had another size: `settings` are what it stands for at the size asked for.
    """

    name: str
    settings: ShotSettings
    passed: bool
    note: str = ""
    frame: int | None = None
    seen_at: FrameSettings | None = None


# Grain that is gone at 48 samples at half the size takes 64 at the full size (common practice, no source): a pixel is
# half as wide in what is seen, and noise of a smaller grain must be a little weaker to show as little.
MORE_AT_TWICE = 64 / 48
LARGEST_PERCENT = 400.0  # of settings


def at_size(seen: FrameSettings, percent: float) -> FrameSettings:
    """Return the settings that pass at a size, where others passed at a smaller one.

    Examples
    --------
    >>> at_size(FrameSettings(samples=48, resolution_percent=50), 100).samples
    64
    >>> adaptive = FrameSettings(samples=480, min_samples=6, noise_threshold=0.1, resolution_percent=50)
    >>> found = at_size(adaptive, 100)
    >>> found.samples, found.min_samples, round(found.noise_threshold, 4)
    (640, 8, 0.0866)
    """
    more = MORE_AT_TWICE ** math.log2(percent / seen.resolution_percent)
    threshold = None if seen.noise_threshold is None else seen.noise_threshold / math.sqrt(more)
    least = None if seen.min_samples is None else min(math.ceil(seen.min_samples * more - _ROUND), MOST_SAMPLES)
    return seen.model_copy(
        update={
            "samples": min(math.ceil(seen.samples * more - _ROUND), MOST_SAMPLES),
            "min_samples": least,
            "noise_threshold": threshold,
            "resolution_percent": percent,
        }
    )


def at_least_as_good(settings: ShotSettings, other: ShotSettings) -> bool:
    """Whether settings are at least as good as others in every lever that shows in the picture.

    What is kept between frames and how often an unfinished frame is saved do not show.

    Examples
    --------
    >>> at_least_as_good(ShotSettings(samples=128), ShotSettings(samples=64, resolution_percent=75))
    True
    >>> at_least_as_good(ShotSettings(samples=128, denoise="frame"), ShotSettings(samples=64))
    False
    """
    same_kind = settings.denoise == other.denoise and settings.switches == other.switches
    return (
        same_kind
        and settings.resolution_percent >= other.resolution_percent
        and _steps_as_little(settings, other)
        and _samples_as_well(settings, other)
        and all(mine >= theirs for mine, theirs in zip(settings.split, other.split, strict=True))
        and (
            settings.most_seconds is None
            or (other.most_seconds is not None and settings.most_seconds >= other.most_seconds)
        )
    )


def _steps_as_little(settings: ShotSettings, other: ShotSettings) -> bool:
    return settings.frame_step == 1 or (settings.frame_step <= other.frame_step and settings.between == other.between)


def _samples_as_well(settings: ShotSettings, other: ShotSettings) -> bool:
    """Whether every pixel takes at least as many samples, whatever its noise."""
    if settings.noise_threshold is None:
        return settings.samples >= other.samples
    if other.noise_threshold is None:
        return settings.least_samples >= other.samples
    return (
        settings.noise_threshold <= other.noise_threshold
        and settings.samples >= other.samples
        and settings.least_samples >= other.least_samples
    )


def deciding(marks: Sequence[EyeMark]) -> tuple[EyeMark, ...]:
    """Return the marks from which all others follow: the worst settings that passed, the best that did not.

    Of marks on the same settings the first is kept: thousands of trials have but a few settings.
    """
    first = {(mark.settings, mark.passed): mark for mark in reversed(marks)}
    unique = [mark for mark in marks if first[mark.settings, mark.passed] is mark]

    def follows(mark: EyeMark) -> bool:
        return any(
            other is not mark
            and other.passed == mark.passed
            and (at_least_as_good(mark.settings, other.settings) if mark.passed
                 else at_least_as_good(other.settings, mark.settings))
            and not (
                at_least_as_good(other.settings, mark.settings) and at_least_as_good(mark.settings, other.settings)
            )
            for other in unique
        )  # fmt: skip

    return tuple(mark for mark in unique if not follows(mark))


def verdict(settings: ShotSettings, marks: Sequence[EyeMark]) -> Verdict:
    """Return whether settings pass by marks; where marks contradict each other, what was refused does not come back."""
    if any(not mark.passed and at_least_as_good(mark.settings, settings) for mark in marks):
        return "does not pass"
    if any(mark.passed and at_least_as_good(settings, mark.settings) for mark in marks):
        return "passes"
    return "look first"


def contradictions(marks: Sequence[EyeMark]) -> tuple[tuple[EyeMark, EyeMark], ...]:
    """Return marks that contradict each other: one that passed, and one at least as good that did not."""
    return tuple(
        (passed, refused)
        for passed in marks
        if passed.passed
        for refused in marks
        if not refused.passed and at_least_as_good(refused.settings, passed.settings)
    )


@dataclass(frozen=True)
class NextLook:
    """The picture that would decide most: settings between what passed and what did not, and the frame."""

    settings: ShotSettings
    frame: int | None

    @property
    def words(self) -> str:
        """The frame and the settings."""
        where = "" if self.frame is None else f"frame {self.frame}, "
        return f"{where}{settings_words(self.settings)}"


def next_look(marks: Sequence[EyeMark]) -> NextLook | None:
    """Return which picture to look at next: between the worst that passed and the best that did not, by samples.

    With nothing refused it has half the samples of the worst that passed; with nothing passed, twice those of the best
    that did not. None where samples do not decide.
    """
    passed = [mark for mark in marks if mark.passed]
    refused = [mark for mark in marks if not mark.passed]
    pairs = [
        (good, bad)
        for good in passed
        for bad in refused
        if at_least_as_good(good.settings, bad.settings) and good.settings.samples > bad.settings.samples + 1
    ]
    if pairs:
        good, bad = min(pairs, key=lambda pair: pair[0].settings.samples / pair[1].settings.samples)
        return _with_samples(good, round((good.settings.samples * bad.settings.samples) ** 0.5))
    if passed and not refused:
        good = min(passed, key=lambda mark: mark.settings.samples)
        return None if good.settings.samples == 1 else _with_samples(good, max(1, good.settings.samples // 2))
    if refused and not passed:
        bad = max(refused, key=lambda mark: mark.settings.samples)
        return _with_samples(bad, min(2 * bad.settings.samples, MOST_SAMPLES))
    return None


def _with_samples(mark: EyeMark, samples: int) -> NextLook:
    least = mark.settings.min_samples
    settings = mark.settings.model_copy(
        update={"samples": samples, "min_samples": None if least is None else min(least, samples)}
    )
    return NextLook(settings, mark.frame)


def passing_words(marks: Sequence[EyeMark]) -> str:
    """Return what passes by eye and what does not, in a sentence; only the marks that say most are named."""
    passed = [mark.settings for mark in marks if mark.passed]
    refused = [mark.settings for mark in marks if not mark.passed]
    worst = [
        settings
        for settings in passed
        if not any(settings != two and at_least_as_good(settings, two) for two in passed)
    ]
    best = [
        settings
        for settings in refused
        if not any(settings != two and at_least_as_good(two, settings) for two in refused)
    ]
    parts = []
    if worst:
        parts.append(f"{_named(worst)} and better passes")
    if best:
        parts.append(f"{_named(best)} and worse does not")
    return f"By eye: {'; '.join(parts)}."


def _named(settings: Sequence[ShotSettings]) -> str:
    words = list(dict.fromkeys(map(settings_words, settings)))
    return words[0] if len(words) == 1 else f"{words[0]} (and {len(words) - 1} more)"


def eye_marks_of(project: Project, shot: str) -> tuple[EyeMark, ...]:
    """Return the marks by eye that hold for a shot: those on its settings, and on trials whose error nobody measured.

    Trials of other shots of the same look count where they were marked for all of it.
    """
    own = project.shot(shot)
    if not own.marks and not any(trial.mark for trial in project.trials):
        return ()
    alike = same_look(project, own)
    marks = [
        EyeMark(f"{shot}, {settings_words(mark.settings)}", mark.settings, mark.mark == GOOD, mark.note)
        for mark in own.marks
    ]
    for trial in project.trials:
        holds = trial.shot == shot or (trial.mark_for == "look" and trial.shot in alike)
        if holds and trial.mark and trial.error is None:
            marks += _of_trial(trial, own.asked.resolution_percent)
    return tuple(marks)


def _of_trial(trial: Trial, percent: float) -> list[EyeMark]:
    """Return what a mark on a trial says at the size asked for; and of its own size, where it is said to pass, too."""
    passed, where = trial.mark == GOOD, f"{trial.shot}, frame {trial.frame}, {settings_words(trial)}"
    seen = FrameSettings.model_construct(
        **{name: getattr(trial, name) for name in FrameSettings.model_fields} | {"resolution_percent": _percent(trial)}
    )
    as_seen = EyeMark(where, _whole(seen), passed, trial.note, trial.frame)
    if seen.resolution_percent >= percent:
        return [as_seen]
    # What did not pass in a smaller picture does not pass with as many samples in a larger one, and no more is known.
    settings = at_size(seen, percent) if passed else seen.model_copy(update={"resolution_percent": percent})
    carried = EyeMark(where, _whole(settings), passed, trial.note, trial.frame, seen)
    return [carried, as_seen] if trial.mark_size else [carried]


def passed_at_size(trial: Trial, percent: float) -> list[ShotSettings]:
    """Return the settings that pass by a trial that was marked good enough: at the size asked for, and its own."""
    return [mark.settings for mark in _of_trial(trial, percent) if mark.passed]


def _percent(trial: Trial) -> float:
    return min(max(trial.resolution_percent, 1.0), LARGEST_PERCENT)


def _whole(settings: FrameSettings) -> ShotSettings:
    return ShotSettings.model_validate(settings.frame_fields())


def carried_words(marks: Sequence[EyeMark]) -> str:
    """Return what marks on smaller pictures count as at the size asked for; empty if there are none."""
    found = [mark for mark in marks if mark.seen_at is not None and mark.passed]
    if not found:
        return ""
    seen, settings = found[0].seen_at, found[0].settings
    assert seen is not None
    return (
        f"{settings_words(seen)} passed: at {settings.resolution_percent:g} % that counts as {settings_words(settings)}"
        ", as finer grain must be weaker to show as little (common practice)."
    )


def contradiction_sentence(found: Sequence[tuple[EyeMark, EyeMark]]) -> str:
    """Return in a sentence which marks contradict each other; empty if none do."""
    if not found:
        return ""
    passed, refused = found[0]
    more = f" {len(found) - 1} more pairs contradict each other." if len(found) > 1 else ""
    return (
        f"“{passed.name}” was marked good enough, and “{refused.name}”, which is at least as good in every lever, was "
        f"not. Look at both again, and change one mark.{more}"
    )


def is_smaller(project: Project, trial: Trial) -> bool:
    """Whether a trial is smaller than what is asked of its shot."""
    return trial.resolution_percent < project.shot(trial.shot).asked.resolution_percent


def size_question(project: Project, trial: Trial) -> str:
    """Return what a mark on a smaller picture is taken to say, and the question whether its size passes, too."""
    percent = project.shot(trial.shot).asked.resolution_percent
    counts = at_size(trial, percent)
    return (
        f"Marked for its noise: {settings_words(trial)}, as good as {settings_words(counts)}. "
        "The smaller size itself is not delivered. Does it pass, too?"
    )
