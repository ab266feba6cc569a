"""The values of a film that say how shots look and what they could be: how each is made of its input. Pure; seconds."""

from dataclasses import replace

from pemlo.core.appraisal.shot_appearance import appearance_of
from pemlo.core.arrays import Floats
from pemlo.core.errors import FileError, InputError
from pemlo.core.film.inputs import (
    HeldInput,
    LookInput,
    OptionsInput,
    PlanInput,
    PlansInput,
    SettingsInput,
    run_input,
)
from pemlo.core.film.memo import Maker, Value
from pemlo.core.film.values import DRAWS, FIT, FORECAST, Known, known_of
from pemlo.core.forecast.needs import shot_hours
from pemlo.core.pixels.display import Srgb
from pemlo.core.predict.shot_appearance import ShotAppearance
from pemlo.core.trade.film_frontier import FilmFrontier, film_frontier
from pemlo.core.trade.options import Numbers, Options, holding, numbers_of, options_of, with_present
from pemlo.core.trade.plan_comparison import PlanRow, compare_plans
from pemlo.core.trade.plan_weighing import WeighTask, rows_made_here, weigh_task
from pemlo.core.trade.planning import FilmPlan, plan_film
from pemlo.core.trade.prices import LeverStep, steps_from
from pemlo.core.trade.savings import SavingStep, saving_steps
from pemlo.core.trade.waterfall import ShotWaterfall, shot_waterfall


def _look(given: LookInput, maker: Maker) -> ShotAppearance | None:
    maker.step(0.0, "Looking at pictures")
    return appearance_of(given.trials, given.folder, Srgb())


LOOK = Value("look", _look)


def _options(given: OptionsInput, maker: Maker, *, for_plan: bool = False) -> Options:
    fit = maker.get(FIT, given.fit)
    draws = {given.shot.name: maker.get(DRAWS, given.draws)}
    look = look_of(given, maker)
    return options_of(given.film(), fit, draws, given.shot, look, maker, given.passing, for_plan=for_plan)


def _plan_options(given: OptionsInput, maker: Maker) -> Options:
    return _options(given, maker, for_plan=True)


def look_of(given: OptionsInput, maker: Maker) -> ShotAppearance | None:
    """Return how a shot looks; None where that is not known, or its pictures cannot be read."""
    if given.look is None:
        return None
    try:
        return maker.get(LOOK, given.look)
    except FileError:
        return None


OPTIONS = Value("options", _options)
# A twentieth of them: what a plan may choose, and single steps that it may name.
PLAN_OPTIONS = Value("options of a plan", _plan_options)


def _numbers(given: SettingsInput, maker: Maker) -> Numbers:
    fit, draws = _own(given, maker)
    # What is among options need not be worked out again.
    options = maker.peek(OPTIONS, given.options) or maker.peek(PLAN_OPTIONS, given.options)
    look = None if given.options.look is None else maker.peek(LOOK, given.options.look)
    return numbers_of(given.options.film(), fit, draws, given.shot(), look, options)


def _own(given: SettingsInput, maker: Maker) -> Known:
    draws = {given.options.shot.name: maker.get(DRAWS, given.options.draws)}
    return maker.get(FIT, given.options.fit), draws


def _hours(given: SettingsInput, maker: Maker) -> Floats:
    film = given.options.film()
    return shot_hours(*_own(given, maker), film, given.shot()) * (1 + film.delivery.retake_share)


def _fall(given: SettingsInput, maker: Maker) -> ShotWaterfall:
    return shot_waterfall(given.options.film(), *_own(given, maker), given.shot())


def _standing(given: SettingsInput, maker: Maker) -> tuple[Options, int]:
    """Return options that hold a shot's settings as they stand, and their place; large, and not kept."""
    return with_present(maker.get(OPTIONS, given.options), given.shot(), maker.get(NUMBERS, given))


def _steps(given: SettingsInput, maker: Maker) -> tuple[LeverStep, ...]:
    return steps_from(*_standing(given, maker))


def _saving_steps(given: SettingsInput, maker: Maker) -> tuple[SavingStep, ...]:
    return tuple(saving_steps(given.shot(), *_standing(given, maker)))


def _held(given: HeldInput, maker: Maker) -> Options:
    options, _ = _standing(given.standing, maker)
    return holding(options, given.standing.shot().model_copy(update={"pins": given.pins}))


# Once options are there, all of this takes a few milliseconds: it is shown while a lever is dragged.
NUMBERS = Value("numbers", _numbers, at_once=True)
HOURS = Value("hours", _hours, at_once=True)
FALL = Value("fall", _fall, at_once=True)
STEPS = Value("steps", _steps, at_once=True)
SAVING_STEPS = Value("saving steps", _saving_steps, at_once=True)
HELD = Value("held options", _held, at_once=True)


def _all_options(given: PlanInput | PlansInput, maker: Maker) -> tuple[Options, ...]:
    found = []
    _weigh_on_cluster(given.options, maker)
    for number, options_input in enumerate(given.options):
        maker.step(number / len(given.options), f"Weighing what {options_input.shot.name} could be")
        found.append(maker.get(PLAN_OPTIONS, options_input))
    return tuple(found)


def _weigh_on_cluster(inputs: tuple[OptionsInput, ...], maker: Maker) -> None:
    """Weigh what a plan may choose of each shot on other machines, if there are any.

    Draws of hours are made here again of those that are looked at.
    """
    if maker.cluster is None:
        return
    missing = [one for one in inputs if not maker.has(PLAN_OPTIONS, one)]
    tasks = []
    for number, one in enumerate(missing):
        maker.step(number / len(missing), f"Sending {one.shot.name} to the cluster")
        known = maker.get(FIT, one.fit)
        of_shot = replace(known, shots={one.shot.name: known.shots[one.shot.name]}, disagreements=())
        draws = {one.shot.name: maker.get(DRAWS, one.draws)}
        tasks.append(WeighTask(one.film(), of_shot, draws, one.shot, look_of(one, maker), one.passing))
    weighed = maker.cluster.each(weigh_task, tasks, None, maker, "Weighing what shots could be on the cluster")
    for one, task, options in zip(missing, tasks, weighed, strict=True):
        maker.put(PLAN_OPTIONS, one, rows_made_here(task, options))


def _plan(given: PlanInput, maker: Maker) -> FilmPlan:
    known = known_of(given.run, maker)
    if not known[0].known:
        raise InputError("Nothing was timed yet: no plan can be made.", "Time one frame first.")
    options = _all_options(given, maker)
    return plan_film(given.film(), options, given.goal, known, given.alike, maker, few=given.few)


def _plans(given: PlansInput, maker: Maker) -> tuple[PlanRow, ...]:
    options = _all_options(given, maker)
    looks = {
        shot_options.shot.name: look
        for shot_options in given.options
        if (look := look_of(shot_options, maker)) is not None
    }
    film = given.run.film().model_copy(update={"plans": given.plans})
    maker.step(0.0, "Comparing plans")
    return compare_plans(
        film,
        *known_of(given.run, maker),
        looks,
        {shot_options.shot: shot_options.ceiling for shot_options in options},
        lambda one: maker.get(FORECAST, run_input(one, given.run.fit)),
    )


PLAN = Value("plan", _plan)
PLANS = Value("plans", _plans)


def _frontier(given: tuple[OptionsInput | HeldInput, ...], maker: Maker) -> FilmFrontier:
    maker.step(0.0, "Finding what hours buy for the film")
    options = tuple(options_now(one, maker) for one in given)
    return FilmFrontier(film_frontier(options), options)


def options_now(given: OptionsInput | HeldInput, maker: Maker) -> Options:
    """Return the options of a shot that a plan may choose and that leave its pinned levers where they are."""
    if not isinstance(given, HeldInput):
        return maker.get(PLAN_OPTIONS, given)
    standing = given.standing
    shot = standing.shot()
    options, _ = with_present(maker.get(PLAN_OPTIONS, standing.options), shot, maker.get(NUMBERS, standing))
    return holding(options, shot.model_copy(update={"pins": given.pins}))


FRONTIER = Value("frontier", _frontier)
