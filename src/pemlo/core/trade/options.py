"""What each option of a shot costs and gives: machine-hours as draws, error with its interval. Pure NumPy.

Options that were never timed or rendered are predicted; how far that reaches shows in their intervals, and past a point
they are not proposed.
"""

from collections import defaultdict
from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo.core.cost.draws import FilmDraws
from pemlo.core.cost.frame_arrays import frames_of
from pemlo.core.cost.frame_model import stage_seconds
from pemlo.core.cost.posterior import Fit
from pemlo.core.errors import InputError
from pemlo.core.forecast.needs import mean_frame, retry_factor, whole_share
from pemlo.core.interval import Interval
from pemlo.core.predict.error_model import Prediction
from pemlo.core.predict.flicker import flicker_limit
from pemlo.core.predict.shot_appearance import ShotAppearance
from pemlo.core.progress import Monitor, Unwatched
from pemlo.core.project.eye_marks import LARGEST_PERCENT, Verdict, deciding, verdict
from pemlo.core.project.keeping import stages_kept
from pemlo.core.project.lookup import counted_values
from pemlo.core.project.passing import Passing, passing_of
from pemlo.core.project.project import Project
from pemlo.core.project.settings import NO_DENOISE, SPLIT, ShotSettings, split_name
from pemlo.core.project.shots import Shot
from pemlo.core.project.trials import STAGES
from pemlo.core.trade.hour_draws import HourDraws
from pemlo.core.trade.levers import SAVES, Levers, always_of, combinations, keeps_character, keeps_pins
from pemlo.core.trade.settings_table import FIELDS, SettingsTable
from pemlo.core.units import HOUR_S

WEIGHED_AT_ONCE = 256  # options, between two looks at whether somebody still wants them
DRAWS = 250  # of those that the forecast has: options are compared by them, the plan is confirmed by all
CAPS, MOST_FREE_SWITCHES, MOST_TIMED = 9, 3, 60
# An option whose interval is wider than this, high over low, is not proposed: a trial would tell more.
WIDEST_HOURS, WIDEST_ERROR = 4.0, 3.0
_ROUNDING = 1e-9


@dataclass(frozen=True, eq=False)
class Options:
    """K options of one shot; the first is as asked.

    Attributes
    ----------
    shot : str
    settings : sequence of ShotSettings
    hours : (K, N) HourDraws, or ndarray of float32
        Draws of machine-hours, retakes counted; see `draws`.
    spent : (K,) ndarray
        Mean samples a pixel, median.
    error, low, high : (K,) ndarray
        Display codes; NaN where nothing is known.
    usable : (K,) ndarray of bool
        Options that may be proposed: enough is known of them, and pinned levers stay.
    ceiling : float
        Largest error that passes, codes; NaN where no error is known.
    ceiling_from : str
        ``marks``, ``by hand``, or ``as asked`` where nothing else says what passes.
    eye : (K,) ndarray of int, optional
        What marks by eye say of each option: 1 it passes, -1 it does not, 0 somebody has to look first; None where
        nobody marked anything by eye.
    stands : int, optional
        Which of them somebody has planned; None where the shot has no plan, or that is not held.
    flicker : (K,) ndarray, optional
        Levels; NaN where it is not known. None where that is nowhere.
    flicker_limit : float
        The most flicker that passes, levels; NaN where nothing moves, or nothing is known of it. Options that flicker
        more are not usable.
    flicker_assumed : tuple of str
        Denoisers of which it was not measured, and goes by their kind.
    """

    shot: str
    settings: SettingsTable
    hours: HourDraws | npt.NDArray[np.float32]
    spent: Floats
    error: Floats
    low: Floats
    high: Floats
    usable: npt.NDArray[np.bool_]
    ceiling: float
    ceiling_from: str
    eye: npt.NDArray[np.int8] | None = None
    stands: int | None = None
    flicker: Floats | None = None
    flicker_limit: float = float("nan")
    flicker_assumed: tuple[str, ...] = ()

    @cached_property
    def plannable(self) -> npt.NDArray[np.bool_]:
        """Options that a plan may choose, (K,): it never relies on a look that nobody has had.

        What was refused by eye is out. Where no error is known, only what passed by eye is in, what was asked, and
        where nothing passed what somebody has planned already.
        """
        if self.known:
            passing = self.usable & ~np.isnan(self.error)
            passing = passing if self.eye is None else passing & (self.eye >= 0)
        else:
            passing = np.zeros_like(self.usable) if self.eye is None else self.usable & (self.eye > 0)
            marked = bool(passing.any())
            if self.eye is None or self.eye[0] >= 0 or not marked:
                passing |= self.usable & self.same_picture
            if self.stands is not None and not marked and (self.eye is None or self.eye[self.stands] >= 0):
                passing[self.stands] = self.usable[self.stands]
        if not passing.any():  # where levers are held so that nothing passes, they stay where they stand
            passing[np.flatnonzero(self.usable)[:1]] = True
        return passing

    @cached_property
    def same_picture(self) -> npt.NDArray[np.bool_]:
        """Options whose picture is that of what was asked, (K,): what is kept and how often it is saved do not show."""
        hidden = sum(1 << FIELDS.index(name) for name in ("keep", "saves"))
        return np.asarray((self.changed_fields(0) & ~hidden) == 0)

    @cached_property
    def middle_hours(self) -> Floats:
        """Median machine-hours, (K,)."""
        if isinstance(self.hours, HourDraws):
            return self.hours.middle
        return np.asarray(np.median(self.hours, axis=1), np.float64)

    def draws(self, place: int) -> Floats:
        """Return draws of an option's machine-hours, (N,), in full precision: they are added up."""
        return np.asarray(self.hours[place], np.float64)

    @property
    def codes(self) -> npt.NDArray[np.int16]:
        """The fields of every option's settings, (K, F), equal values as equal numbers: quick to compare."""
        return self.settings.codes

    def and_one(
        self,
        settings: ShotSettings,
        hours: Floats,
        spent: float,
        error: Interval,
        *,
        usable: bool,
        eye: int,
        flicker: float = float("nan"),
    ) -> "Options":
        """Return these options with one more at the end."""
        more = replace(
            self,
            settings=self.settings.and_one(settings),
            hours=self.hours.and_one(hours)
            if isinstance(self.hours, HourDraws)
            else np.vstack([self.hours, hours.astype(np.float32)]),
            spent=np.append(self.spent, spent),
            error=np.append(self.error, error.middle),
            low=np.append(self.low, error.low),
            high=np.append(self.high, error.high),
            usable=np.append(self.usable, usable),
            eye=None if self.eye is None else np.append(self.eye, np.int8(eye)),
            flicker=None if self.flicker is None else np.append(self.flicker, flicker),
        )
        # A cached property lives in the instance's dictionary: that of the others is not worked out again.
        more.__dict__["middle_hours"] = np.append(self.middle_hours, np.median(hours))
        return more

    def changed_fields(self, place: int) -> npt.NDArray[np.intp]:
        """Return in which fields each option differs from one, (K,): a bit for each field, the first the lowest."""
        return np.asarray((self.codes != self.codes[place]) @ (1 << np.arange(len(FIELDS))), np.intp)

    @property
    def known(self) -> bool:
        """Whether the shot's errors are known."""
        return not np.isnan(self.error[0])

    def place(self, settings: ShotSettings) -> int:
        """Return which option has these settings.

        Raises
        ------
        KeyError
            If none has.
        """
        place = self.settings.place(settings)
        if place is None:
            raise KeyError(settings)
        return place

    def has(self, settings: ShotSettings) -> bool:
        """Whether there is an option with these settings."""
        return self.settings.place(settings) is not None

    def only(self, chosen: Sequence[int]) -> "Options":
        """Return some of the options."""
        at = list(chosen)
        return replace(
            self,
            settings=self.settings.only(at),
            hours=self.hours.only(at) if isinstance(self.hours, HourDraws) else self.hours[at],
            spent=self.spent[at],
            error=self.error[at],
            low=self.low[at],
            high=self.high[at],
            usable=self.usable[at],
            eye=None if self.eye is None else self.eye[at],
            stands=at.index(self.stands) if self.stands in at else None,
            flicker=None if self.flicker is None else self.flicker[at],
        )


@dataclass(frozen=True)
class Numbers:
    """What one way of rendering a shot costs and gives.

    Attributes
    ----------
    hours : (N,) ndarray
        Draws of machine-hours.
    spent : float
        Mean samples a pixel.
    found : Prediction, optional
        The error; None if it is not known.
    """

    hours: Floats
    spent: float
    found: Prediction | None

    @cached_property
    def middle_hours(self) -> float:
        return float(np.median(self.hours))


def numbers_of(
    project: Project,
    fit: Fit,
    draws: FilmDraws,
    shot: Shot,
    appearance: ShotAppearance | None,
    options: Options | None = None,
) -> Numbers:
    """Return the numbers of a shot's present settings: a few milliseconds, less if they are among its options."""
    if options is not None and options.has(shot.settings):
        place = options.place(shot.settings)
        spent = float(options.spent[place])
        return Numbers(
            options.draws(place), spent, None if appearance is None else predict_error(appearance, shot.settings, spent)
        )
    hours, samples = mean_hours(project, fit, draws, shot, [shot.settings])
    prediction = None if appearance is None else predict_error(appearance, shot.settings, float(samples[0]))
    return Numbers(hours[0], float(samples[0]), prediction)


def with_present(options: Options, shot: Shot, now: Numbers) -> tuple[Options, int]:
    """Return options that hold a shot's present settings, whose numbers are given, and their place among them."""
    if options.has(shot.settings):
        return options, options.place(shot.settings)
    error = Interval(np.nan, np.nan, np.nan) if now.found is None else now.found.total
    flicker = np.nan if now.found is None or now.found.flicker is None else float(now.found.flicker.middle)
    more = options.and_one(shot.settings, now.hours, now.spent, error, usable=True, eye=0, flicker=flicker)
    return more, len(options.settings)


def holding(options: Options, shot: Shot) -> Options:
    """Return options of which only those may be proposed that leave the pinned levers of a shot where they are."""
    return replace(options, usable=options.usable & [keeps_pins(shot, settings) for settings in options.settings])


def levers_of(
    project: Project, fit: Fit, shot: Shot, appearance: ShotAppearance | None, passing: Passing | None = None
) -> Levers:
    """Return what can be chosen for a shot with what is known of it, and what passes of it."""
    passing = passing or passing_of(project, shot)
    timed = {NO_DENOISE, *fit.denoisers}
    # Where no error is known, nothing is hidden: hours are weighed, and the eye decides.
    seen = {NO_DENOISE, *appearance.error_model.laws} if appearance else timed
    trials = [trial for trial in project.trials_of(shot.name) if not trial.left_out]
    used = {shot.asked.denoise, shot.settings.denoise}
    denoisers = tuple(sorted((timed & seen) | used, key=lambda name: (name != NO_DENOISE, name)))
    thresholds = any(trial.adaptive or trial.noise_shape for trial in trials)
    # A stage that was never kept has a cost that nobody timed.
    kept = counted_values(project.trials, "keep") | {(), shot.settings.keep}
    keeps = tuple(keep for keep in stages_kept(shot) if keep in kept)
    largest = max([100.0, shot.asked.resolution_percent, *(trial.resolution_percent for trial in trials)])
    costs = set(fit.cost_factors.switches)
    effects = costs & set(appearance.error_model.effects) if appearance else costs
    tried = {trial.noise_threshold for trial in trials if trial.noise_threshold is not None}
    return Levers(
        denoisers,
        thresholds,
        (1, 2) if appearance is None or appearance.stepping else (1,),
        keeps,
        largest,
        _caps(project, fit, shot),
        _splits(project, shot, effects),
        _switches(shot, effects),
        _fewest_losses(project, fit, shot),
        () if appearance else tuple(sorted(tried)),
        tuple(dict.fromkeys((*timed_settings(project, shot), *passing.passed))),
    )


def timed_settings(project: Project, shot: Shot) -> tuple[ShotSettings, ...]:
    """Return the settings of a shot's trials, as they were timed; the frames that it leaves out are those asked for."""
    timed = (
        trial
        for trial in project.trials_of(shot.name)
        if not (trial.left_out or trial.assumed) and trial.region_percent is None
    )
    found = {tuple(one.frame_fields().items()): one for one in timed if one.resolution_percent <= LARGEST_PERCENT}
    # Every value was checked where it came from.
    return tuple(
        shot.asked.model_copy(
            update=dict(one.frame_fields()) | {"resolution_percent": max(one.resolution_percent, 1.0)}
        )
        for one in list(found.values())[:MOST_TIMED]
    )


def _caps(project: Project, fit: Fit, shot: Shot) -> tuple[float, ...]:
    """Return seconds of tracing from those of the typical frame as asked down, the least first."""
    traced = _typical(project, fit, shot, [shot.asked])[0, STAGES.index("trace")]
    return tuple(float(f"{traced * 2 ** (-step / 2):.2g}") for step in reversed(range(CAPS)))


def _splits(project: Project, shot: Shot, effects: Collection[str]) -> tuple[tuple[int, ...], ...]:
    known = {split for split in counted_values(project.trials, "split") if split_name(split) in effects}
    return tuple(dict.fromkeys((shot.asked.split, shot.settings.split, *sorted(known))))


def _switches(shot: Shot, effects: Collection[str]) -> tuple[tuple[str, ...], ...]:
    """Return sets of switches: as asked, and each of those that are known the other way."""
    known = sorted(name for name in effects if not name.startswith(SPLIT))[:MOST_FREE_SWITCHES]
    sets = [set(shot.asked.switches)]
    for name in known:
        sets += [preset ^ {name} for preset in sets]
    return tuple(dict.fromkeys((*(tuple(sorted(preset)) for preset in sets), shot.settings.switches)))


def _fewest_losses(project: Project, fit: Fit, shot: Shot) -> int:
    """Return how many saves make the typical frame as asked take least, lost ones counted."""
    cost_factors = [shot.asked.model_copy(update={"saves": saves}) for saves in SAVES]
    seconds = _typical(project, fit, shot, cost_factors).sum(axis=-1)
    return SAVES[int(np.argmin(seconds * [retry_factor(project.machines, saves) for saves in SAVES]))]


def _typical(project: Project, fit: Fit, shot: Shot, settings: Sequence[ShotSettings]) -> Floats:
    """Return the most probable seconds of each stage of the typical frame, (K, 5)."""
    frames = frames_of(list(settings), [project.size_of(shot)] * len(settings), fit.cost_factors, _shape(fit, shot))
    return stage_seconds(fit.shots[shot.name].best[None, :], frames)


def options_of(
    project: Project,
    fit: Fit,
    draws: FilmDraws,
    shot: Shot,
    appearance: ShotAppearance | None,
    monitor: Monitor | None = None,
    passing: Passing | None = None,
    *,
    for_plan: bool = False,
) -> Options:
    """Return every option of a shot with its numbers.

    Where nothing is known of how it looks, errors are not known; what passes by eye then follows from marks.

    Parameters
    ----------
    project : Project
    fit : Fit
        Which knows the shot.
    draws : FilmDraws
        Of that fit.
    shot : Shot
    appearance : ShotAppearance, optional
    monitor : Monitor, optional
    passing : Passing, optional
        What passes of the shot; as the marks of the project say unless given.
    for_plan : bool
        Only those that a plan may choose, and single steps from what was asked.

    Raises
    ------
    Cancelled
        From the monitor, within a tenth of a second.
    """
    passing = passing or passing_of(project, shot)
    levers = levers_of(project, fit, shot, appearance, passing)
    of_shot = _Weighing(project, fit, draws, shot, appearance, monitor or Unwatched())
    always = always_of(shot, levers)
    of_always = of_shot.numbers(always)
    ceiling, source = _ceiling(shot, passing, of_always[_ERROR])
    limit = _flicker_limit(shot, passing, always, ceiling, of_always[_FLICKER])
    keeps = keeps_character(shot, passing.passed, flicker_known=not np.isnan(limit))
    settings = combinations(shot, levers, keeps if for_plan else None)
    of_rest = of_shot.numbers(settings[len(always) :])
    middle, *ends, samples, low, error, high, flicker = np.concatenate([of_always, of_rest], axis=1)
    near = (ends[1] <= WIDEST_HOURS * ends[0]) & ~(high > WIDEST_ERROR * low)
    if appearance is not None:
        near &= ~np.isnan(error)  # it could be known, and is not: a trial would tell
    near[: len(always)] = True  # what was asked for, timed or marked is an option, however little is known of it
    free = np.array([keeps_pins(shot, one) and keeps(one) for one in settings]) & ~(flicker > limit * (1 + _ROUNDING))
    low, error, high = _as_marked(always, passing, ceiling, low, error, high)
    eye = _by_eye(passing, settings)
    table = SettingsTable.of(settings)

    hours = HourDraws(hour_rows(project, fit, draws, shot, table), middle)
    stands = None if shot.settings == shot.asked else table.place(shot.settings)
    used = (*levers.denoisers, *(one.denoise for one in passing.passed))
    assumed = tuple(
        dict.fromkeys(name for name in used if appearance and appearance.error_model.flicker.source(name) == "assumed")
    )
    known_flicker = None if appearance is None else flicker
    return Options(
        *(shot.name, table, hours, samples, error, low, high, near & free, ceiling, source, eye, stands),
        *(known_flicker, limit, assumed),
    )


def hour_rows(
    project: Project, fit: Fit, draws: FilmDraws, shot: Shot, table: SettingsTable
) -> Callable[[Sequence[int]], npt.NDArray[np.float32]]:
    """Return what makes draws of a shot's hours for some of its settings, by their places."""
    return lambda places: mean_hours(project, fit, draws, shot, [table[place] for place in places])[0].astype(
        np.float32
    )


# Rows of the numbers of options.
_ERROR, _FLICKER = 5, 7


@dataclass(frozen=True)
class _Weighing:
    """Works out the numbers of options of one shot."""

    project: Project
    fit: Fit
    draws: FilmDraws
    shot: Shot
    appearance: ShotAppearance | None
    watch: Monitor

    def numbers(self, settings: Sequence[ShotSettings]) -> Floats:
        """Return middle, low and high end of the hours, samples, low end, middle and high end of the error, flicker.

        They are (8, K); hours by the middle of their draws in half the precision, as they are kept.
        """
        parts = []
        for first in range(0, len(settings), WEIGHED_AT_ONCE):
            self.watch.step(first / len(settings), f"Weighing what {self.shot.name} could be")
            some = settings[first : first + WEIGHED_AT_ONCE]
            rows, spent = mean_hours(self.project, self.fit, self.draws, self.shot, some)
            parts.append([np.median(rows.astype(np.float32), axis=1), *np.quantile(rows, [0.05, 0.95], axis=1), spent])
        of_hours = np.concatenate(parts, axis=1) if parts else np.zeros((4, 0))
        return np.concatenate([of_hours, _predicted(self.appearance, settings, of_hours[3])])


def _flicker_limit(
    shot: Shot, passing: Passing, always: Sequence[ShotSettings], ceiling: float, flicker: Floats
) -> float:
    """Return the most flicker that passes; NaN where nothing moves, it is not known, or somebody allowed it."""
    if not shot.moves or "denoise" in shot.allows or np.isnan(flicker).all():
        return float("nan")
    # What was asked for stands first; settings that were marked good enough are among those that are always there.
    passed = [float(flicker[0])]
    passed += [
        float(flicker[k])
        for k, settings in enumerate(always)
        if settings in passing.passed or settings == shot.settings
    ]
    return flicker_limit(ceiling, passed)


_EYE: dict[Verdict, int] = {"passes": 1, "does not pass": -1, "look first": 0}


def _by_eye(passing: Passing, settings: Sequence[ShotSettings]) -> npt.NDArray[np.int8] | None:
    marks = deciding(passing.eye)
    return np.array([_EYE[verdict(one, marks)] for one in settings], np.int8) if marks else None


def _as_marked(
    always: Sequence[ShotSettings], passing: Passing, ceiling: float, low: Floats, error: Floats, high: Floats
) -> tuple[Floats, Floats, Floats]:
    """Return errors of which those of settings that somebody passed are no more than the ceiling."""
    for place, settings in enumerate(always):
        if settings in passing.passed and not np.isnan(ceiling) and not error[place] <= ceiling:
            error[place], high[place] = ceiling, np.fmax(high[place], ceiling)
            low[place] = np.fmin(low[place], ceiling)
    return low, error, high


def _shape(fit: Fit, shot: Shot) -> Floats | None:
    return fit.shots[shot.name].shape()


def mean_hours(
    project: Project, fit: Fit, draws: FilmDraws, shot: Shot, settings: Sequence[ShotSettings], count: int = DRAWS
) -> tuple[Floats, Floats]:
    """Return draws of what a shot takes with each of K settings, so many of them.

    Returns
    -------
    hours : (K, count) ndarray
        Machine-hours, retakes counted.
    spent : (K,) ndarray
        Mean samples a pixel, median over the draws.
    """
    frames = frames_of(list(settings), [project.size_of(shot)] * len(settings), fit.cost_factors, _shape(fit, shot))
    whole = np.array([whole_share(project, shot, one) for one in settings])
    by_saves = {saves: retry_factor(project.machines, saves) for saves in {one.saves for one in settings}}
    once = np.array([by_saves[one.saves] for one in settings])
    seconds, spent = mean_frame(draws[shot.name], frames, whole, count)
    counts = np.array([shot.rendered_count(one) for one in settings])
    times = counts * once * (1 + project.delivery.retake_share) / HOUR_S
    return np.asarray(seconds.T * times[:, None]), np.asarray(np.median(spent, axis=0))


def _predicted(appearance: ShotAppearance | None, settings: Sequence[ShotSettings], spent: Floats) -> Floats:
    """Return low end, middle and high end of the errors of K options, and flicker, (4, K); NaN where not known."""
    found = np.full((4, len(settings)), np.nan)
    if appearance is None:
        return found
    # Those that differ only in their samples are predicted in one go.
    alike: dict[tuple[object, ...], list[int]] = defaultdict(list)
    for place, one in enumerate(settings):
        sampling = (one.least_samples, one.samples, one.most_seconds is None) if one.adaptive else ()
        alike[one.denoise, one.resolution_percent, one.switched, one.frame_step, one.between, *sampling].append(place)
    for places in alike.values():
        error = predict_error(appearance, settings[places[0]], spent[places])
        if error is not None:
            flicker = np.nan if error.flicker is None else error.flicker.middle
            found[:, places] = (
                error.total.low,
                error.total.middle,
                error.total.high,
                np.broadcast_to(flicker, len(places)),
            )
    return found


def predict_error(appearance: ShotAppearance, settings: ShotSettings, spent: Any) -> Prediction | None:  # noqa: ANN401
    """Return the error that settings are expected to have; None if too little is known.

    Parameters
    ----------
    appearance : ShotAppearance
    settings : ShotSettings
    spent : float, or (K,) ndarray
        Mean samples a pixel; an array predicts for each of its numbers.

    Notes
    -----
    Stepping adds in squares to the rest of every frame.
    """
    try:
        prediction = appearance.error_model.predict(settings, spent)
    except InputError:
        return None
    if settings.frame_step == 1:
        return prediction
    if settings.frame_step != 2 or settings.between not in appearance.stepping:
        return None
    step = appearance.stepping[settings.between]
    return replace(prediction, total=Interval(*(np.hypot(point, step) for point in prediction.total)))


def _ceiling(shot: Shot, passing: Passing, error: Floats) -> tuple[float, str]:
    if shot.ceiling is not None:
        return shot.ceiling, "by hand"
    return (float(error[0]), "as asked") if passing.ceiling is None else (passing.ceiling, "marks")
