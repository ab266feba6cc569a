"""Values by what they are made from: each is made once, however many ask. Safe on any thread.

Nothing here can be stale: a value belongs to its input, and another input is another value. What a film that is open
holds stays; the rest gives way, what was asked for longest ago first.
"""

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable, Iterable, Mapping
from dataclasses import dataclass, field, fields, is_dataclass
from itertools import islice
from typing import Any, Generic, TypeVar

import numpy as np

from pemlo.core.cluster import Cluster
from pemlo.core.errors import ClusterError, PemloError
from pemlo.core.progress import Cancelled, Monitor, Unwatched
from pemlo.core.project.record import Record

MOST_COUNTED = 100  # values of a mapping
LITTLE = 64  # of what is neither an array nor holds any


def bytes_of(value: object) -> int:
    """Return about how much memory something takes: that of its arrays, and a little for what is not one."""
    if isinstance(value, np.ndarray):
        return int(value.nbytes)
    if isinstance(value, tuple | list):
        # Of many records each takes as little as the first.
        if value and isinstance(value[0], Record):
            return LITTLE * (1 + len(value))
        return LITTLE + sum(map(bytes_of, value))
    if isinstance(value, Mapping):
        # Of very many, some say about how much all take.
        step = max(1, len(value) // MOST_COUNTED)
        return LITTLE + step * sum(map(bytes_of, islice(value.values(), 0, None, step)))
    if is_dataclass(value):
        return LITTLE + sum(bytes_of(getattr(value, one.name)) for one in fields(value))
    return LITTLE


I = TypeVar("I", bound=Hashable)  # noqa: E741 - an input
V = TypeVar("V")
Key = tuple[str, Hashable]

MOST_BYTES = 96 * 2**20
LOOKS_S = 0.05  # so often somebody who waits for the work of another asks whether it still has to


@dataclass(frozen=True)
class Value(Generic[I, V]):
    """A kind of value: what it is called, and how it is made of its input alone.

    One that is made `at_once`, in a few milliseconds, may be made on a window's thread.
    """

    name: str
    make: "Callable[[I, Maker], V]"
    at_once: bool = False

    def key(self, given: I) -> Key:
        """Return what the value of an input is kept by."""
        return self.name, given


class Maker:
    """What a value is made with: other values, and somebody who hears how far it is and may stop it."""

    def __init__(self, memo: "Memo", monitor: Monitor) -> None:
        self._memo, self._monitor = memo, monitor

    def get(self, value: Value[I, V], given: I) -> V:
        """Return another value."""
        return self._memo.get(value, given, self._monitor)

    def peek(self, value: Value[I, V], given: I) -> V | None:
        """Return another value if it is there: for what is the same without it, only slower."""
        return self._memo.peek(value, given)

    @property
    def cluster(self) -> Cluster | None:
        """Other machines, where large work goes; None for this one alone. The numbers are the same."""
        return self._memo.cluster

    def put(self, value: Value[I, V], given: I, made: V) -> None:
        """Keep a value that was made elsewhere."""
        self._memo.put(value, given, made)

    def forget(self, value: Value[I, V], given: I) -> None:
        """Keep a value no longer."""
        self._memo.forget(value.key(given))

    def has(self, value: Value[I, V], given: I) -> bool:
        """Whether a value is there."""
        return self._memo.has(value.key(given))

    def step(self, fraction: float, text: str) -> None:
        """Say how far it is; raises `Cancelled` once nobody wants it."""
        self._monitor.step(fraction, text)


@dataclass(frozen=True)
class _Made:
    """A value, or the expected trouble that there was instead."""

    value: Any
    trouble: PemloError | None
    size: int

    def open(self) -> Any:  # noqa: ANN401 - whatever it is
        if self.trouble is not None:
            raise self.trouble.with_traceback(None)
        return self.value


@dataclass
class _Flight:
    """A value that is being made: how many others wait for it, and what becomes of it."""

    waiting: int = 0
    said: tuple[float, str] = (0.0, "")
    ended: threading.Event = field(default_factory=threading.Event)
    made: _Made | None = None
    bug: Exception | None = None


class _Shared:
    """The monitor of a value that is being made: it is stopped only when nobody wants it."""

    def __init__(self, flight: _Flight, own: Monitor, lock: threading.Lock) -> None:
        self._flight, self._own, self._lock = flight, own, lock
        self.left = False

    def step(self, fraction: float, text: str) -> None:
        self._flight.said = fraction, text
        if not self.left:
            try:
                self._own.step(fraction, text)
            except Cancelled:
                self.left = True
        if self.left:
            with self._lock:
                wanted = self._flight.waiting > 0
            if not wanted:
                raise Cancelled


class Memo:
    """Values that were made.

    Parameters
    ----------
    most_bytes : int
        That values may take which no open film holds.

    Attributes
    ----------
    cluster : Cluster, optional
        Where large work goes.
    """

    cluster: Cluster | None = None

    def __init__(self, most_bytes: int = MOST_BYTES) -> None:
        self._most = most_bytes
        self._lock = threading.Lock()
        self._made: OrderedDict[Key, _Made] = OrderedDict()
        self._flights: dict[Key, _Flight] = {}
        self._held: dict[int, frozenset[Key]] = {}
        self._holders: dict[Key, int] = {}  # how many hold each
        self._spare_bytes = 0  # of what nobody holds
        self._never_on: set[int] = set()

    def get(self, value: Value[I, V], given: I, monitor: Monitor | None = None) -> V:
        """Return a value; made now if it is not there, or waited for if somebody makes it.

        Raises
        ------
        PemloError
            That there was when it was made.
        Cancelled
            From the monitor.
        """
        key, watch = value.key(given), monitor or Unwatched()
        while True:
            with self._lock:
                made = self._made.get(key)
                if made is None:
                    self._refuse_window(value)
                    flight = self._flights.get(key)
                    if flight is None:
                        mine = self._flights[key] = _Flight()
                    else:
                        flight.waiting += 1
                else:
                    self._made.move_to_end(key)
            if made is None:
                made = self._make(value, given, mine, watch) if flight is None else self._wait(flight, watch)
            if made is not None:
                found: V = made.open()
                return found

    def peek(self, value: Value[I, V], given: I) -> V | None:
        """Return a value if it is there; None if it is not, or if there was trouble."""
        with self._lock:
            made = self._made.get(value.key(given))
        return None if made is None else made.value

    def peek_all(self, value: Value[I, V], given: Iterable[I]) -> list[V | None]:
        """Return the values of many inputs, as `peek` returns each."""
        keys = [value.key(one) for one in given]
        with self._lock:
            made = [self._made.get(key) for key in keys]
        return [None if one is None else one.value for one in made]

    def trouble(self, value: Value[I, V], given: I) -> PemloError | None:
        """Return the trouble that there was when a value was made; None if there was none, or it was not made."""
        with self._lock:
            made = self._made.get(value.key(given))
        return None if made is None else made.trouble

    def has(self, key: Key) -> bool:
        """Whether a value was made, or could not be."""
        return key in self._made

    def hold(self, holder: object, keys: Iterable[Key]) -> None:
        """Let what a holder needs stay, however much it is, in place of what it needed before."""
        wanted = frozenset(keys)
        with self._lock:
            self._hold(id(holder), wanted)

    def put(self, value: Value[I, V], given: I, made: V) -> None:
        """Keep a value that was found in another way, in place of one that would be made of its input."""
        with self._lock:
            self._keep(value.key(given), _Made(made, None, bytes_of(made)))

    def forget(self, key: Key) -> None:
        """Keep a value no longer: it is large, and nobody will ask for it."""
        with self._lock:
            made = self._made.pop(key, None)
            if made is not None and key not in self._holders:
                self._spare_bytes -= made.size

    def let_go(self, holder: object) -> None:
        """Let what a holder needed give way."""
        with self._lock:
            self._hold(id(holder), frozenset())

    def never_on(self, thread: int) -> None:
        """Refuse to make anything on a thread: it is a window's, and must not be held up."""
        self._never_on.add(thread)

    @property
    def bytes(self) -> int:
        """About how much memory all values take."""
        with self._lock:
            return sum(made.size for made in self._made.values())

    def _make(self, value: Value[I, V], given: I, flight: _Flight, monitor: Monitor) -> _Made:
        key, shared = value.key(given), _Shared(flight, monitor, self._lock)
        try:
            try:
                made = value.make(given, Maker(self, shared))
                flight.made = _Made(made, None, bytes_of(made))
            except ClusterError:  # what other machines cannot do now may be done later, or here
                raise
            except PemloError as error:
                flight.made = _Made(None, error, 0)
        except Cancelled:
            raise
        except Exception as error:
            flight.bug = error
            raise
        finally:
            with self._lock:
                del self._flights[key]
                if flight.made is not None:
                    self._keep(key, flight.made)
            flight.ended.set()
        return flight.made

    def _refuse_window(self, value: Value[Any, Any]) -> None:
        """Refuse to make something on a window's thread, or to let it wait for another that does."""
        if not value.at_once and threading.get_ident() in self._never_on:
            raise RuntimeError(f"{value.name} is made on the thread of a window")

    def _wait(self, flight: _Flight, monitor: Monitor) -> _Made | None:
        """Return what another thread makes; None if it stopped, and has to be made after all."""
        try:
            while not flight.ended.wait(LOOKS_S):
                monitor.step(*flight.said)
        finally:
            with self._lock:
                flight.waiting -= 1
        if flight.bug is not None:
            raise flight.bug
        return flight.made

    def _keep(self, key: Key, made: _Made) -> None:
        """Keep what was made; called with the lock."""
        before = self._made.get(key)
        self._made[key] = made
        if key not in self._holders:
            self._spare_bytes += made.size - (0 if before is None else before.size)
        self._make_room()

    def _hold(self, holder: int, wanted: frozenset[Key]) -> None:
        """Hold these for a holder; called with the lock. Only what is other than before costs time."""
        before = self._held.pop(holder, frozenset())
        if wanted:
            self._held[holder] = wanted
        for key in wanted - before:
            self._holders[key] = self._holders.get(key, 0) + 1
            if self._holders[key] == 1 and key in self._made:
                self._spare_bytes -= self._made[key].size
        for key in before - wanted:
            self._holders[key] -= 1
            if not self._holders[key]:
                del self._holders[key]
                self._spare_bytes += self._made[key].size if key in self._made else 0
        self._make_room()

    def _make_room(self) -> None:
        """Let values go that nobody holds, those asked for longest ago first; called with the lock."""
        if self._spare_bytes <= self._most:
            return
        for key in [key for key in self._made if key not in self._holders]:
            self._spare_bytes -= self._made.pop(key).size
            if self._spare_bytes <= self._most:
                return
