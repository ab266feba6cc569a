"""The values of a film that say what it costs and when it is done: how each is made of its input. Pure; seconds."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, TypeVar

from pemlo.core.cost.draws import FilmDraws, ShotDraws, drawn_shot, draws_of
from pemlo.core.cost.fit import BegunFit, begin_fit, first_fit, fit
from pemlo.core.cost.fit_input import FitInput
from pemlo.core.cost.next_trial import Advice, advise
from pemlo.core.cost.posterior import Fit
from pemlo.core.errors import InputError
from pemlo.core.farm.spread_runs import SpreadRuns
from pemlo.core.film.inputs import AdviceInput, DrawsInput, RunInput
from pemlo.core.film.memo import Maker, Value
from pemlo.core.forecast.best_order import TriedOrder, orders_tried
from pemlo.core.forecast.finish import Finish
from pemlo.core.forecast.kept_data import ShotKeeping, kept_data
from pemlo.core.forecast.moves_most import Move, moves_most
from pemlo.core.forecast.parts import Once
from pemlo.core.forecast.run_effect import QUICK_FRAMES, exact_finish
from pemlo.core.forecast.verdict import Forecast, forecast, project_capacity
from pemlo.core.forecast.what_it_takes import Addition, Kind, what_it_takes
from pemlo.core.project.narrow import frozen_input
from pemlo.core.project.shots import Shot
from pemlo.core.threads import side_by_side

T = TypeVar("T")
Known = tuple[Fit, FilmDraws]


def _begun(given: FitInput, maker: Maker) -> BegunFit:
    return begin_fit(given, maker)


BEGUN = Value("begun fit", _begun)


def _fit(given: FitInput, maker: Maker) -> Fit:
    made = fit(given, maker, maker.peek(BEGUN, given))
    maker.forget(BEGUN, given)  # large, and wanted by nobody any more
    return made


def _draws(given: DrawsInput, maker: Maker) -> ShotDraws:
    return draws_of(maker.get(FIT, given.fit), given.shot, given.fit.seed)


FIT = Value("fit", _fit)
DRAWS = Value("draws", _draws)


def known_of(given: RunInput, maker: Maker) -> Known:
    """Return the fit of a film and the draws of its shots, which are drawn side by side."""
    made = maker.get(FIT, given.fit)
    draws = side_by_side(given.shots, lambda shot: maker.get(DRAWS, given.draws_of(shot)))
    return made, {shot.name: drawn for shot, drawn in zip(given.shots, draws, strict=True)}


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
    runner = None if maker.cluster is None else SpreadRuns(maker.cluster)
    return exact_finish(given.film(), *known, maker, runner)


MANY_TIMED = 150  # shots that were timed, from which on a fit takes so long that something is said before it


@dataclass(frozen=True)
class FirstAnswer:
    """What is said of a film before its fit is made: a fit of few draws, and a forecast by hours poured."""

    fit: Fit
    draws: FilmDraws
    forecast: Forecast


def is_large(given: FitInput) -> bool:
    """Whether a fit takes so long that something is to be said before it."""
    return len({trial.shot for trial in given.trials if not trial.left_out}) > MANY_TIMED


def _first_answer(given: RunInput, maker: Maker) -> FirstAnswer:
    made = first_fit(given.fit, maker.get(BEGUN, given.fit))

    def drawn(shot: Shot) -> ShotDraws:
        maker.step(0.9, "Forecasting")
        return draws_of(made, drawn_shot(shot), given.fit.seed, len(made.film))

    draws = {shot.name: own for shot, own in zip(given.shots, side_by_side(given.shots, drawn), strict=True)}
    return FirstAnswer(made, draws, forecast(given.film(), made, draws, Once(), most_frames=0))


FIRST_ANSWER = Value("first answer", _first_answer)


def can_be_run(found: Forecast) -> bool:
    """Whether a run can say more than a forecast without one: something was timed, trials agree, somebody renders."""
    return found.probability is not None and bool(found.hours_available)


def _forecast(given: RunInput, maker: Maker) -> Forecast:
    fit, project = maker.get(FIT, given.fit), given.film()
    if not fit.known or fit.disagreements or not project_capacity(project).work_by(max(project.render_by_h, 0.0)):
        return maker.get(FIRST_FORECAST, given)
    try:
        run = maker.get(RUN, given)
    except InputError:  # too many machines to run one by one: what they can do together is known all the same
        return maker.get(FIRST_FORECAST, given)
    return forecast(given.film(), *known_of(given, maker), _Parts(given.fit, maker), finish=run)


# Before the first run what runs is not loaded, or not even compiled; a hand that drags has no time for every frame.
FIRST_FORECAST = Value("forecast without a run", _first_forecast)
QUICK_FORECAST = Value("forecast from some runs", _quick_forecast)
RUN = Value("run", _run)
FORECAST = Value("forecast", _forecast)
OF_RUN: tuple[Value[RunInput, Any], ...] = (FIRST_FORECAST, QUICK_FORECAST, FORECAST, RUN)


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


KEPT = Value("cache", _kept)
ORDERS = Value("orders", _orders)
MOVES = Value("moves", _moves)
TAKES = Value("takes", _takes)
