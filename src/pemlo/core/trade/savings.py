"""Savings of a size that matters: the largest step of one lever that still passes, or that one look would decide.

What is the same step in several shots is one saving. Pure NumPy; milliseconds once options are there.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

from pemlo.core.project.settings import LEVERS, LeverName, ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.trade.best_plan import PASSES
from pemlo.core.trade.levers import lever_text
from pemlo.core.trade.options import Options
from pemlo.core.trade.prices import FREE, LEAST_SHARE, own_fields
from pemlo.core.trade.settings_table import FIELDS

Cost = Literal["free", "passes", "look"]
_ORDER: tuple[Cost, ...] = ("free", "passes", "look")
NOTCHES = 4  # to an octave: steps of samples that are that near are called the same
ONE_LOOK = 1.0  # octaves of samples: so far a look reaches beyond what passed


@dataclass(frozen=True)
class FilmSaving:
    """One step of a lever, in one shot or alike in several.

    Attributes
    ----------
    lever : str
    step : str
        What it does: ``half the samples``.
    cost : str
        ``free``: the picture stays what it is. ``passes``: by marks, or under the ceiling. ``look``: somebody has to
        look first.
    settings : mapping of str to ShotSettings
        Of each shot, those that save most first.
    hours : float
        Middle machine-hours that are saved.
    error : float
        The most codes that it adds in a shot; NaN where that is not known.
    look_at : (str, int)
        The shot and frame to look at: of the shot that saves most its middle.
    """

    lever: LeverName
    step: str
    cost: Cost
    settings: Mapping[str, ShotSettings]
    hours: float
    error: float
    look_at: tuple[str, int]

    @property
    def shots(self) -> tuple[str, ...]:
        """The shots."""
        return tuple(self.settings)


@dataclass(frozen=True)
class SavingStep:
    """One step of a lever of one shot; as in `FilmSaving`."""

    shot: Shot
    lever: LeverName
    label: str
    cost: Cost
    settings: ShotSettings
    hours: float
    error: float


def savings(steps: Sequence[SavingStep], film_hours: float, count: int) -> tuple[FilmSaving, ...]:
    """Return the savings that give most: what costs nothing first, then what passes, then what one look would decide.

    Parameters
    ----------
    steps : sequence of SavingStep
        Of all shots.
    film_hours : float
        Of the film as it stands: what saves less than `LEAST_SHARE` of them is not worth naming.
    count : int
        The most that are returned.
    """
    found = [saving for saving in _gathered(steps) if saving.hours >= LEAST_SHARE * film_hours]
    return tuple(sorted(found, key=lambda saving: (_ORDER.index(saving.cost), -_worth(saving), saving.shots))[:count])


def _worth(saving: FilmSaving) -> float:
    """Return hours for a code; what costs none that show, or none that are known, counts as one."""
    return saving.hours / max(float(np.nan_to_num(saving.error, nan=1.0)), 1.0)


def saving_steps(shot: Shot, options: Options, at: int) -> Iterator[SavingStep]:
    """Yield the largest step of each lever that passes, and the one that one look would decide."""
    apart, now = options.changed_fields(at), options.settings[at]
    passes = options.plannable & ~(options.error > options.ceiling * (1 + PASSES))
    refused = np.zeros_like(passes) if options.eye is None else options.eye < 0
    # Where an error is known a look decides nothing that the ceiling does not.
    open_ = options.usable & ~refused & ~passes & np.isnan(options.error)
    for lever in LEVERS:
        fields = sum(1 << FIELDS.index(name) for name in own_fields(lever))
        moved = ((apart | fields) == fields) & (options.middle_hours < options.middle_hours[at])
        moved[at] = False
        for cost, places in (("passes", np.flatnonzero(moved & passes)), ("look", np.flatnonzero(moved & open_))):
            place = _largest(options, lever, at, places, one_look=cost == "look")
            if place is None:
                continue
            settings = options.settings[place]
            error = float(options.error[place] - options.error[at])
            same = _same_picture(now, settings)
            yield SavingStep(
                shot, lever, step_label(lever, now, settings), "free" if same else cost,  # type: ignore[arg-type]
                settings, float(options.middle_hours[at] - options.middle_hours[place]), 0.0 if same else error,
            )  # fmt: skip


def _largest(
    options: Options, lever: LeverName, at: int, places: npt.NDArray[np.intp], *, one_look: bool
) -> int | None:
    """Return the option with the fewest hours; of samples that nobody saw, the one half as many."""
    if not len(places):
        return None
    if one_look and lever in {"samples", "noise_threshold", "most_seconds"}:
        now = options.settings[at]
        octaves = np.array([abs(octaves_between(lever, now, options.settings[int(k)])) for k in places])
        return int(places[np.argmin(np.abs(octaves - ONE_LOOK))])
    return int(places[np.argmin(options.middle_hours[places])])


def octaves_between(lever: LeverName, before: ShotSettings, after: ShotSettings) -> float:
    """Return how many times samples are halved from one to the other; of a threshold, those that it comes to."""
    one, other = getattr(before, lever), getattr(after, lever)
    if not one or not other:
        return 0.0
    return float(np.log2(one / other) if lever != "noise_threshold" else 2 * np.log2(other / one))


def _same_picture(settings: ShotSettings, other: ShotSettings) -> bool:
    return settings.model_copy(update={"keep": other.keep, "saves": other.saves}) == other


def step_label(lever: LeverName, before: ShotSettings, after: ShotSettings) -> str:
    """Return what a step does, so that like steps of several shots are called alike.

    Examples
    --------
    >>> step_label("samples", ShotSettings(samples=256), ShotSettings(samples=128))
    'half the samples'
    >>> step_label("samples", ShotSettings(samples=256), ShotSettings(samples=215))
    '16 % fewer samples'
    """
    if lever in {"samples", "most_seconds"} and getattr(before, lever) and getattr(after, lever):
        what = {"samples": "samples", "most_seconds": "time limit"}[lever]
        notches = round(octaves_between(lever, before, after) * NOTCHES)
        named = {NOTCHES: "half the", 2 * NOTCHES: "a quarter of the", 3 * NOTCHES: "an eighth of the"}
        if notches in named:
            return f"{named[notches]} {what}"
        share = 100 * (1 - getattr(after, lever) / getattr(before, lever))
        return f"{share:.0f} % fewer samples" if lever == "samples" else f"a time limit {share:.0f} % shorter"
    if lever == "switches":
        off = [f"{name} off" for name in before.switches if name not in after.switches]
        return ", ".join([*off, *(f"{name} on" for name in after.switches if name not in before.switches)])
    texts = {
        "noise_threshold": "threshold {}", "min_samples": "at least {} samples", "denoise": "denoising “{}”",
        "resolution_percent": "{} size", "frame_step": "{}", "keep": "{} cached between frames",
        "most_seconds": "a time limit of {} a frame", "split": "rays split {}", "saves": "saved {} while it renders",
    }  # fmt: skip
    if lever == "denoise" and after.denoise == "none":
        return "no denoising"
    return texts[lever].format(lever_text(after, lever))


def _gathered(steps: Iterable[SavingStep]) -> list[FilmSaving]:
    """Return steps that are the same in several shots as one."""
    groups: dict[tuple[LeverName, str, Cost], list[SavingStep]] = {}
    for step in steps:
        groups.setdefault((step.lever, step.label, step.cost), []).append(step)
    found = []
    for (lever, label, cost), mine in groups.items():
        mine.sort(key=lambda saving_step: (-saving_step.hours, saving_step.shot.name))
        errors = [saving_step.error for saving_step in mine]
        found.append(
            FilmSaving(
                lever, label, cost, {step.shot.name: step.settings for step in mine}, sum(step.hours for step in mine),
                float("nan") if any(np.isnan(errors)) else max(errors), (mine[0].shot.name, mine[0].shot.middle),
            )
        )  # fmt: skip
    return found


def saving_words(saving: FilmSaving, hours: str) -> str:
    """Return a saving in a sentence; `hours` is what it saves, written."""
    cost = {
        "free": "the picture stays the same",
        "look": f"look at frame {saving.look_at[1]} of {saving.look_at[0]} first",
    }
    if saving.cost == "passes":
        known = "passes by what was marked" if np.isnan(saving.error) else f"costs {saving.error:.1f} levels"
        words = "no visible cost" if saving.error <= FREE else known
    else:
        words = cost[saving.cost]
    return f"{saving.step[:1].upper()}{saving.step[1:]} in {_where(saving.shots)}: saves {hours}, {words}"


def _where(shots: Sequence[str]) -> str:
    if len(shots) == 1:
        return shots[0]
    if len(shots) <= 3:
        return f"{', '.join(shots[:-1])} and {shots[-1]}"
    return f"{len(shots)} shots ({', '.join(shots[:2])} …)"
