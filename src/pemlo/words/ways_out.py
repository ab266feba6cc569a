"""What would do where nothing passes: how far the film is from being in time, ways there, and the look that decides.

Nobody has seen these: they are what to try, and no plan. Pure NumPy.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.chances import share_percent
from pemlo.core.project.project import Project
from pemlo.core.project.settings import NO_DENOISE, FrameSettings, ShotSettings
from pemlo.core.trade.best_plan import Plan
from pemlo.core.trade.levers import lever_text
from pemlo.core.trade.options import Options
from pemlo.core.trade.required_test import RequiredTest
from pemlo.core.trade.savings import octaves_between
from pemlo.core.trade.settings_table import FIELDS
from pemlo.core.units import counted, round_figures

MOST_WAYS, OCTAVES = 3, (0.5, 1.0, 1.5, 2.0, 3.0, 4.0)
_NAMES = {
    0.5: "30 % fewer samples", 1.0: "half the samples", 1.5: "a third of the samples", 2.0: "a quarter of the samples",
    3.0: "an eighth of the samples", 4.0: "a sixteenth of the samples",
}  # fmt: skip


@dataclass(frozen=True)
class WayOut:
    """One step for all shots with which the film would be in time.

    Attributes
    ----------
    words : str
    settings : tuple of ShotSettings
        Of each shot.
    safe_h : float
        Machine-hours with the chance asked for.
    """

    words: str
    settings: tuple[ShotSettings, ...]
    safe_h: float


@dataclass(frozen=True)
class WaysOut:
    """How far a film is from its deadline, and what would bring it there.

    Attributes
    ----------
    fewer : float
        Share of the hours as planned that has to go, 0 to 1.
    available_h : float
    ways : tuple of WayOut
        At most three, the mildest of each kind.
    look : RequiredTest, optional
        The frame that decides most: of the shot with the most hours, by the first of the ways.
    """

    fewer: float
    available_h: float
    ways: tuple[WayOut, ...]
    look: RequiredTest | None

    @property
    def words(self) -> tuple[str, ...]:
        """What it says, a sentence each."""
        fewer = f"To be in time the film needs {100 * self.fewer:.0f} % fewer hours."
        found = [f"Nothing cheaper was marked good enough, so nothing changes. {fewer}"]
        if self.ways:
            each = "; ".join(f"{way.words} ({round_figures(way.safe_h, 3)} h)" for way in self.ways)
            available = round_figures(self.available_h, 3)
            found.append(f"One step in all shots would do, each safe within the {available} h available: {each}.")
        else:
            found.append("No single step in all shots would do: more machines or days are needed, or several steps.")
        if self.look is not None:
            found.append(self.look.why)
        return tuple(found)


def ways_out(project: Project, options: Sequence[Options], plan: Plan, available_h: float) -> WaysOut | None:
    """Return what would do where a plan is late and nothing cheaper passes of any shot; None otherwise."""
    if plan.missing_hours <= 0 or not options or any(_passes(shot_options) for shot_options in options):
        return None
    confidence = project.delivery.confidence
    # Options are weighed by some of the draws; all of them said what the plan comes to.
    scale = plan.needed / max(_safe(options, plan.chosen, confidence), 1e-12)
    ways_in_time = []
    for kind in (_fewer_samples(options), _denoised(options), _smaller(options), _every_second(options)):
        for words, chosen in kind:
            safe = scale * _safe(options, chosen, confidence)
            if safe <= available_h:
                settings = tuple(one.settings[k] for one, k in zip(options, chosen, strict=True))
                ways_in_time.append(WayOut(words, settings, safe))
                break
    ways = tuple(ways_in_time[:MOST_WAYS])
    return WaysOut(1 - available_h / plan.needed, available_h, ways, _look(project, options, plan, ways))


def _passes(options: Options) -> bool:
    """Whether anything cheaper than what was asked passes of a shot, or was measured so that it could."""
    return options.known or bool((options.plannable & ~options.same_picture).any())


def _safe(options: Sequence[Options], chosen: Sequence[int], confidence: float) -> float:
    draws: Floats = np.sum([one.draws(k) for one, k in zip(options, chosen, strict=True)], axis=0)
    return float(np.quantile(draws, confidence))


Kind = Iterator[tuple[str, tuple[int, ...]]]


def _fewer_samples(options: Sequence[Options]) -> Kind:
    for octaves in OCTAVES:
        yield _NAMES[octaves], tuple(_nearest(shot_options, octaves) for shot_options in options)


def _nearest(options: Options, octaves: float, denoise: str | None = None) -> int:
    """Return the option of a shot with so much less sampling, and all else as asked."""
    asked = options.settings[0]
    lever = "samples" if asked.noise_threshold is None else "noise_threshold"
    free = {lever, "min_samples"} if denoise is None else {lever, "min_samples", "denoise"}
    among = sum(1 << FIELDS.index(name) for name in free)
    best, place = np.inf, 0
    for k in np.flatnonzero((options.changed_fields(0) & ~among) == 0).tolist():
        other = options.settings[k]
        if denoise is not None and other.denoise != denoise:
            continue
        off = abs(octaves_between(lever, asked, other) - octaves)  # type: ignore[arg-type]
        if off < best:
            best, place = off, k
    return place


def _denoised(options: Sequence[Options]) -> Kind:
    names = [
        shot_options.settings.values_of("denoise") - {NO_DENOISE, shot_options.settings[0].denoise}
        for shot_options in options
    ]
    common = sorted(set.intersection(*names)) if names else []
    for name in common:
        for octaves in OCTAVES[1:]:
            chosen = tuple(_nearest(shot_options, octaves, name) for shot_options in options)
            if all(one.settings[k].denoise == name for one, k in zip(options, chosen, strict=True)):
                yield f"{_NAMES[octaves]} and denoising “{name}”", chosen


def _smaller(options: Sequence[Options]) -> Kind:
    sizes = sorted(options[0].settings.values_of("resolution_percent"), reverse=True)
    for size in sizes:
        chosen = tuple(_with(shot_options, resolution_percent=size) for shot_options in options)
        if size < options[0].settings[0].resolution_percent and all(chosen):
            yield f"{lever_text(options[0].settings[chosen[0]], 'resolution_percent')} of the size", chosen


def _every_second(options: Sequence[Options]) -> Kind:
    chosen = tuple(_with(shot_options, frame_step=2) for shot_options in options)
    if all(chosen):
        yield "every second frame, held", chosen


def _with(options: Options, **fields: object) -> int:
    """Return the option that has some fields otherwise than asked; 0, which is as asked, if there is none."""
    return options.settings.place(options.settings[0].model_copy(update=fields)) or 0


def _look(project: Project, options: Sequence[Options], plan: Plan, ways: Sequence[WayOut]) -> RequiredTest | None:
    if not ways:
        return None
    hours = [one.middle_hours[k] for one, k in zip(options, plan.chosen, strict=True)]
    most = int(np.argmax(hours))
    shot, settings = project.shots[most], ways[0].settings[most]
    share = hours[most] / max(sum(hours), 1e-12)
    others = len(project.shots) - 1
    for_all = f", there and in the {counted(others, 'other')}" if others else ""
    why = (
        f"Render frame {shot.middle} of {shot.name} with {ways[0].words} and look: that shot has "
        f"{share_percent(share)} of the hours. If it passes, mark it good enough{for_all}."
    )
    return RequiredTest(shot.name, shot.middle, FrameSettings.model_validate(settings.frame_fields()), why)
