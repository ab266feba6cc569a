"""The values of a film: how each is made of its input. Pure; seconds, on any thread but a window's."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, TypeVar

from pemlo.core.appraisal.shot_appearance import appearance_of
from pemlo.core.cost.draws import FilmDraws, ShotDraws, draws_of
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import FitInput
from pemlo.core.cost.next_trial import Advice, advise
from pemlo.core.cost.posterior import Fit
from pemlo.core.errors import FileError
from pemlo.core.film.inputs import AdviceInput, DrawsInput, LookInput, OptionsInput, PlanInput, PlansInput, RunInput
from pemlo.core.film.memo import Maker, Value
from pemlo.core.forecast.best_order import TriedOrder, orders_tried
from pemlo.core.forecast.finish import Finish
from pemlo.core.forecast.kept_data import ShotKeeping, kept_data
from pemlo.core.forecast.moves_most import Move, moves_most
from pemlo.core.forecast.run_effect import QUICK_FRAMES, exact_finish
from pemlo.core.forecast.verdict import Forecast, forecast
from pemlo.core.forecast.what_it_takes import Addition, Kind, what_it_takes
from pemlo.core.pixels.display import Srgb
from pemlo.core.predict.shot_appearance import ShotAppearance
from pemlo.core.project.narrow import frozen_input
from pemlo.core.trade.film_frontier import FilmPoint, film_frontier
from pemlo.core.trade.options import Options, options_of
from pemlo.core.trade.plan_comparison import PlanRow, compare_plans
from pemlo.core.trade.planning import FilmPlan, plan_film

T = TypeVar("T")
Known = tuple[Fit, FilmDraws]


def _fit(given: FitInput, maker: Maker) -> Fit:
    return fit(given, maker)


def _draws(given: DrawsInput, maker: Maker) -> ShotDraws:
    return draws_of(maker.get(FIT, given.fit), given.shot, given.fit.seed)


FIT = Value("fit", _fit)
DRAWS = Value("draws", _draws)


def known_of(given: RunInput, maker: Maker) -> Known:
    """Return the fit of a film and the draws of its shots."""
    return maker.get(FIT, given.fit), {shot.name: maker.get(DRAWS, given.draws_of(shot)) for shot in given.shots}


@frozen_input
class _PartInput:
    """What a part of a forecast is made from: the fit, and what else it reads."""

    fit: FitInput
    name: tuple[str, ...]
    of: Any


@dataclass(frozen=True)
class _Parts:
    """Numbers of single shots, which a forecast shares with those of the same film with a lever elsewhere."""

    fit: FitInput
    maker: Maker

    def once(self, name: tuple[str, ...], of: object, make: Callable[[], T]) -> T:
        """Return what was made before of the same, or make it."""
        value: Value[_PartInput, T] = Value("part", lambda _, __: make())
        return self.maker.get(value, _PartInput(self.fit, name, of))


def _first_forecast(given: RunInput, maker: Maker) -> Forecast:
    return forecast(given.film(), *known_of(given, maker), _Parts(given.fit, maker), most_frames=0)


def _quick_forecast(given: RunInput, maker: Maker) -> Forecast:
    maker.step(0.0, "Forecasting")
    return forecast(given.film(), *known_of(given, maker), _Parts(given.fit, maker), most_frames=QUICK_FRAMES)


def _run(given: RunInput, maker: Maker) -> Finish:
    known = known_of(given, maker)
    maker.step(0.0, "Running every frame")
    return exact_finish(given.film(), *known, maker)


def _forecast(given: RunInput, maker: Maker) -> Forecast:
    quick = maker.get(FIRST_FORECAST, given)
    if quick.probability is None or not quick.hours_available:
        return quick  # there is nothing to run
    run = maker.get(RUN, given)
    return forecast(given.film(), *known_of(given, maker), _Parts(given.fit, maker), finish=run)


# Before the first run what runs is not loaded, or not even compiled; a hand that drags has no time for every frame.
FIRST_FORECAST = Value("forecast without a run", _first_forecast)
QUICK_FORECAST = Value("forecast from some runs", _quick_forecast)
RUN = Value("run", _run)
FORECAST = Value("forecast", _forecast)


def _look(given: LookInput, maker: Maker) -> ShotAppearance | None:
    maker.step(0.0, "Looking at pictures")
    return appearance_of(given.trials, given.folder, Srgb())


LOOK = Value("look", _look)


def _options(given: OptionsInput, maker: Maker) -> Options:
    known = maker.get(FIT, given.fit)
    draws = {given.shot.name: maker.get(DRAWS, given.draws)}
    look = look_of(given, maker)
    return options_of(given.film(), known, draws, given.shot, look, maker, given.passing)


def look_of(given: OptionsInput, maker: Maker) -> ShotAppearance | None:
    """Return how a shot looks; None where that is not known, or its pictures cannot be read."""
    if given.look is None:
        return None
    try:
        return maker.get(LOOK, given.look)
    except FileError:
        return None


OPTIONS = Value("options", _options)


def _all_options(given: PlanInput | PlansInput, maker: Maker) -> tuple[Options, ...]:
    found = []
    for number, one in enumerate(given.options):
        maker.step(number / len(given.options), f"Weighing what {one.shot.name} could be")
        found.append(maker.get(OPTIONS, one))
    return tuple(found)


def _plan(given: PlanInput, maker: Maker) -> FilmPlan:
    known, options = known_of(given.run, maker), _all_options(given, maker)
    return plan_film(given.film(), options, given.goal, known, given.alike, maker, few=given.few)


def _plans(given: PlansInput, maker: Maker) -> tuple[PlanRow, ...]:
    options = _all_options(given, maker)
    looks = {one.shot.name: look for one in given.options if (look := look_of(one, maker)) is not None}
    film = given.run.film().model_copy(update={"plans": given.plans})
    maker.step(0.0, "Comparing plans")
    return compare_plans(film, *known_of(given.run, maker), looks, {one.shot: one.ceiling for one in options})


PLAN = Value("plan", _plan)
PLANS = Value("plans", _plans)


def _frontier(given: tuple[OptionsInput, ...], maker: Maker) -> tuple[FilmPoint, ...]:
    maker.step(0.0, "Finding what hours buy for the film")
    return film_frontier([maker.get(OPTIONS, one) for one in given])


FRONTIER = Value("frontier", _frontier)


def _advice(given: AdviceInput, maker: Maker) -> tuple[Advice, ...]:
    maker.step(0.0, "Weighing which trial tells most")
    return advise(maker.get(FIT, given.fit), given.film(), {given.shot.name})


ADVICE = Value("advice", _advice)


def _kept(given: RunInput, maker: Maker) -> tuple[ShotKeeping, ...]:
    maker.step(0.0, "Seeing what can be kept")
    return kept_data(given.film(), *known_of(given, maker))


def _orders(given: RunInput, maker: Maker) -> tuple[TriedOrder, ...]:
    return orders_tried(given.film(), *known_of(given, maker), maker)


def _moves(given: RunInput, maker: Maker) -> tuple[Move, ...]:
    return moves_most(given.film(), *known_of(given, maker), maker)


@frozen_input
class WayInput:
    """What it would take of one kind, of one machine."""

    run: RunInput
    kind: Kind
    machine: str


def _takes(given: WayInput, maker: Maker) -> Addition:
    known = known_of(given.run, maker)
    return what_it_takes(given.run.film(), *known, ways=[(given.kind, given.machine)], monitor=maker)[0]


KEPT = Value("kept data", _kept)
ORDERS = Value("orders", _orders)
MOVES = Value("moves", _moves)
TAKES = Value("takes", _takes)
