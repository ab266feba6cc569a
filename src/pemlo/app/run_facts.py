"""What the run of a film leads to, found in the background: what it would take, better orders, what can be kept.

Lives on the GUI thread. Nothing is asked for while nobody looks.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from pemlo.app.forecaster import FilmForecast
from pemlo.app.jobs import Jobs
from pemlo.core.progress import Monitor

if TYPE_CHECKING:
    from pemlo.core.forecast.best_order import TriedOrder
    from pemlo.core.forecast.kept_data import ShotKeeping
    from pemlo.core.forecast.moves_most import Move
    from pemlo.core.forecast.what_it_takes import Addition, Kind

_Work = Callable[[FilmForecast, Monitor], object]
KEPT, ORDERS, TAKES, MOVES = "kept data", "orders", "takes", "moves"
_NAMES = {KEPT: "kept", ORDERS: "orders", TAKES: "way", MOVES: "moves"}


@dataclass(frozen=True)
class Facts:
    """What was found so far of one answer; None what was not yet."""

    kept: "tuple[ShotKeeping, ...] | None" = None
    orders: "tuple[TriedOrder, ...] | None" = None
    way: "Addition | None" = None
    moves: "tuple[Move, ...] | None" = None


class RunFacts(QObject):
    """Asks for the facts of an answer, once.

    Signals
    -------
    changed()
        Something was found.
    """

    changed = Signal()

    def __init__(self, jobs: Jobs) -> None:
        super().__init__()
        self._jobs = jobs
        self._of: FilmForecast | None = None
        self._way: tuple[Kind, str] | None = None
        self.facts = Facts()

    @property
    def of(self) -> FilmForecast | None:
        """The answer that the facts are of."""
        return self._of

    def ask(self, answer: FilmForecast) -> None:
        """Find the facts of an answer whose frames were all run; until then those of the last one stand."""
        if answer is self._of or answer.finish is None:
            return
        self._of = answer
        self._submit(KEPT, "Seeing what can be kept", _kept)
        self._submit(ORDERS, "Trying orders of the shots", _orders)
        self._submit(MOVES, "Trying one more of each", _moves)
        if self._way is not None:
            self.ask_way(*self._way)

    def ask_way(self, kind: "Kind", machine: str) -> None:
        """Find what it would take of one kind, of one machine."""
        self._way = kind, machine
        if self._of is not None and any(one.name == machine for one in self._of.project.machines):
            self._submit(
                TAKES, f"Trying more of {machine}", lambda answer, monitor: _takes(answer, kind, machine, monitor)
            )

    def forget(self) -> None:
        """Forget all; another film is here."""
        for key in _NAMES:
            self._jobs.cancel(key)
        self._of, self._way, self.facts = None, None, Facts()

    def _submit(self, key: str, text: str, work: _Work) -> None:
        answer = self._of
        assert answer is not None
        self._jobs.submit(
            key,
            text,
            lambda monitor: work(answer, monitor),
            lambda found: self._take(key, found),
            again=lambda: self._again(key, text, work),
        )

    def _again(self, key: str, text: str, work: _Work) -> None:
        if self._of is not None:
            self._submit(key, text, work)

    def _take(self, key: str, found: object) -> None:
        self.facts = replace(self.facts, **{_NAMES[key]: found})  # type: ignore[arg-type]
        self.changed.emit()


def _kept(answer: FilmForecast, monitor: Monitor) -> object:
    from pemlo.core.forecast.kept_data import kept_data  # noqa: PLC0415 - heavy to load

    monitor.step(0.0, "Seeing what can be kept")
    return kept_data(answer.project, answer.known.fit, answer.known.draws)


def _orders(answer: FilmForecast, monitor: Monitor) -> object:
    from pemlo.core.forecast.best_order import orders_tried  # noqa: PLC0415 - heavy to load

    return orders_tried(answer.project, answer.known.fit, answer.known.draws, monitor)


def _moves(answer: FilmForecast, monitor: Monitor) -> object:
    from pemlo.core.forecast.moves_most import moves_most  # noqa: PLC0415 - heavy to load

    return moves_most(answer.project, answer.known.fit, answer.known.draws, monitor)


def _takes(answer: FilmForecast, kind: "Kind", machine: str, monitor: Monitor) -> object:
    from pemlo.core.forecast.what_it_takes import what_it_takes  # noqa: PLC0415 - heavy to load

    known = answer.known
    return what_it_takes(answer.project, known.fit, known.draws, ways=[(kind, machine)], monitor=monitor)[0]
