"""The values of a film that say how shots look and what they could be: how each is made of its input. Pure; seconds."""

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
from pemlo.core.trade.film_frontier import FilmPoint, film_frontier
from pemlo.core.trade.options import Numbers, Options, holding, numbers_of, options_of, with_present
from pemlo.core.trade.plan_comparison import PlanRow, compare_plans
from pemlo.core.trade.planning import FilmPlan, plan_film
from pemlo.core.trade.prices import LeverStep, steps_from
from pemlo.core.trade.savings import SavingStep, saving_steps
from pemlo.core.trade.waterfall import ShotWaterfall, shot_waterfall


def _look(given: LookInput, maker: Maker) -> ShotAppearance | None:
    maker.step(0.0, "Looking at pictures")
    return appearance_of(given.trials, given.folder, Srgb())


LOOK = Value("look", _look)


def _options(given: OptionsInput, maker: Maker) -> Options:
    fit = maker.get(FIT, given.fit)
    draws = {given.shot.name: maker.get(DRAWS, given.draws)}
    look = look_of(given, maker)
    return options_of(given.film(), fit, draws, given.shot, look, maker, given.passing)


def look_of(given: OptionsInput, maker: Maker) -> ShotAppearance | None:
    """Return how a shot looks; None where that is not known, or its pictures cannot be read."""
    if given.look is None:
        return None
    try:
        return maker.get(LOOK, given.look)
    except FileError:
        return None


OPTIONS = Value("options", _options)


def _numbers(given: SettingsInput, maker: Maker) -> Numbers:
    fit, draws = _own(given, maker)
    options = maker.peek(OPTIONS, given.options)  # what is among them need not be worked out again
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
    for number, options_input in enumerate(given.options):
        maker.step(number / len(given.options), f"Weighing what {options_input.shot.name} could be")
        found.append(maker.get(OPTIONS, options_input))
    return tuple(found)


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


def _frontier(given: tuple[OptionsInput | HeldInput, ...], maker: Maker) -> tuple[FilmPoint, ...]:
    maker.step(0.0, "Finding what hours buy for the film")
    return film_frontier([options_now(one, maker) for one in given])


def options_now(given: OptionsInput | HeldInput, maker: Maker) -> Options:
    """Return the options of a shot that leave its pinned levers where they are."""
    return maker.get(HELD, given) if isinstance(given, HeldInput) else maker.get(OPTIONS, given)


FRONTIER = Value("frontier", _frontier)
