"""What the run of a film leads to, asked for in the background: what it would take, better orders, what can be kept.

Lives on the GUI thread. Nothing is asked for while nobody looks.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, Signal

from pemlo.app.film_known import FilmForecast
from pemlo.app.jobs import Jobs
from pemlo.core.progress import Monitor

if TYPE_CHECKING:
    from pemlo.core.film.memo import Value
    from pemlo.core.forecast.best_order import TriedOrder
    from pemlo.core.forecast.kept_data import ShotKeeping
    from pemlo.core.forecast.moves_most import Move
    from pemlo.core.forecast.what_it_takes import Addition, Kind

KEPT, ORDERS, TAKES, MOVES = "cache", "orders", "takes", "moves"


@dataclass(frozen=True)
class Facts:
    """What was found so far of one answer; None what was not yet."""

    kept: "tuple[ShotKeeping, ...] | None" = None
    orders: "tuple[TriedOrder, ...] | None" = None
    way: "Addition | None" = None
    moves: "tuple[Move, ...] | None" = None


class RunFacts(QObject):
    """Asks for the facts of an answer, once.

    Attributes
    ----------
    of : FilmForecast or None
        What the facts are of.
    facts : Facts

    Signals
    -------
    changed()
        Something was found.
    """

    changed = Signal()

    def __init__(self, jobs: Jobs) -> None:
        super().__init__()
        self._jobs = jobs
        self.of: FilmForecast | None = None
        self._way: tuple[Kind, str] | None = None
        self.facts = Facts()

    def ask(self, answer: FilmForecast) -> None:
        """Find the facts of an answer whose frames were all run; until then those of the last one stand."""
        if answer is self.of or answer.finish is None:
            return
        if self.of is not None and answer.film.run_input == self.of.film.run_input:
            self.of = answer  # what a note says changes nothing of the run
            return
        self.of = answer
        from pemlo.core.film import values  # noqa: PLC0415 - heavy to load

        run = answer.film.run_input
        self._find(KEPT, "Seeing what can be kept", "kept", values.KEPT, run)
        self._find(ORDERS, "Trying orders of the shots", "orders", values.ORDERS, run)
        self._find(MOVES, "Trying one more of each", "moves", values.MOVES, run)
        if self._way is not None:
            self.ask_way(*self._way)

    def ask_way(self, kind: "Kind", machine: str) -> None:
        """Find what it would take of one kind, of one machine."""
        self._way = kind, machine
        if self.of is None or (machine and all(one.name != machine for one in self.of.project.machines)):
            return
        from pemlo.core.film import values  # noqa: PLC0415 - heavy to load

        given = values.WayInput(self.of.film.run_input, kind, machine)
        self._find(TAKES, f"Trying more of {machine}" if machine else "Trying rented hours", "way", values.TAKES, given)

    def forget(self) -> None:
        """Forget all; another film is here."""
        for key in (KEPT, ORDERS, TAKES, MOVES):
            self._jobs.cancel(key)
        self.of, self._way, self.facts = None, None, Facts()

    def _find(self, key: str, text: str, name: str, value: "Value[Any, Any]", given: Any) -> None:  # noqa: ANN401
        """Show one fact if it is there, or ask for it."""
        answer = self.of
        assert answer is not None
        film = answer.film
        if film.memo.has(value.key(given)):
            self._jobs.cancel(key)
            self._take(name, film.peek(value, given))
            return

        def work(monitor: Monitor) -> object:
            return film.get(value, given, monitor)

        again: Callable[[], None] = lambda: self._find(key, text, name, value, given)  # noqa: E731 - asked for as it was
        self._jobs.submit(key, text, work, lambda found: self._take(name, found), again=again)

    def _take(self, name: str, found: object) -> None:
        self.facts = replace(self.facts, **{name: found})  # type: ignore[arg-type]
        self.changed.emit()
