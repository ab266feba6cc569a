"""Calls functions on the workers of a Dask cluster: one small layer over its library, for whatever is spread.

Every worker needs the same Pemlo. The package of the cluster is optional: ``pip install pemlo[cluster]``. What is
called depends on nothing but its arguments, so that it does not matter who calls it, or how often: a worker that is
lost costs time and changes no number.
"""

import itertools
import queue
import threading
from collections.abc import Callable, Sequence
from contextlib import suppress
from importlib.metadata import version
from typing import Any, TypeVar

from pemlo.core.errors import ClusterError
from pemlo.core.progress import Monitor, Unwatched

S = TypeVar("S")
I = TypeVar("I")  # noqa: E741 - an item
R = TypeVar("R")

SCHEME = "dask://"
PARTS_A_WORKER = 4
REACHED_WITHIN_S, LOOKS_EVERY_S = 4.0, 0.25
MOST_ATTEMPTS, BACK_WITHIN_S = 3, 10.0


def address_of(text: str) -> str:
    """Return the address of a cluster's scheduler.

    Parameters
    ----------
    text : str
        As people give it: ``dask://10.0.0.4:8786``.

    Raises
    ------
    ValueError
        If it is none.

    Examples
    --------
    >>> address_of("dask://farm:8786")
    'tcp://farm:8786'
    """
    place = text.strip().removeprefix(SCHEME)
    host, colon, port = place.rpartition(":")
    if not text.strip().startswith(SCHEME) or not colon or not host or not (port.isdecimal() and len(port) < 6):
        raise ValueError(f"“{text}” is not a cluster; write it like {SCHEME}host:8786")
    return f"tcp://{place}"


def cluster_of(text: str) -> "Cluster | None":
    """Return the cluster that somebody wrote down; None for none, or for what is no address."""
    try:
        return Cluster(address_of(text)) if text.strip() else None
    except ValueError:
        return None


class Cluster:
    """A cluster on which functions are called.

    Parameters
    ----------
    address : str
        Of its scheduler, as `address_of` gives it.
    """

    def __init__(self, address: str) -> None:
        self.address = address

    def each(
        self,
        function: Callable[[S, I], R],
        items: Sequence[I],
        shared: S,
        monitor: Monitor | None = None,
        what: str = "Working on the cluster",
    ) -> list[R]:
        """Call a function for each item, on whatever workers there are.

        Parameters
        ----------
        function : callable
            Of a module, so that workers find it; takes what is shared, and an item.
        items : sequence
        shared : object
            Is sent to each worker once.
        monitor : Monitor, optional
        what : str
            What is said meanwhile.

        Returns
        -------
        list
            In the order of the items.

        Raises
        ------
        ClusterError
            If the package is not there, the cluster is not reached, has no workers, these have another Pemlo, or are
            lost again and again.
        Cancelled
            From the monitor.
        """
        try:
            import distributed  # noqa: PLC0415 - optional
        except ImportError as error:
            raise ClusterError("Dask is not installed here.", "Install it with: pip install pemlo[cluster]") from error
        watch = monitor or Unwatched()
        library: Any = distributed  # it says no types
        with _reached(library, self.address, watch) as client:
            workers = self._workers(client)
            count = min(workers * PARTS_A_WORKER, len(items))
            edges = [len(items) * number // count for number in range(count + 1)]
            parts = [items[first:last] for first, last in itertools.pairwise(edges)]
            done: dict[int, list[R]] = {}
            for _ in range(MOST_ATTEMPTS):
                if _gathered(library, client, function, parts, shared, done, watch, what):
                    return [result for number in range(len(parts)) for result in done[number]]
                _wait_for_a_worker(client, watch)
        hint = "Look at why its workers end, or leave the cluster out."
        raise ClusterError(f"The cluster at {self.address} lost its workers {MOST_ATTEMPTS} times.", hint)

    def check(self, monitor: Monitor | None = None) -> None:
        """See that the cluster answers, within a few seconds; errors as in `each`."""
        self.each(_nothing, (0,), None, monitor)

    def _workers(self, client: Any) -> int:  # noqa: ANN401 - as above
        """Return how many workers there are, all with the Pemlo that is here."""
        try:
            versions = client.run(_version)
        except ModuleNotFoundError as error:
            hint = "Install the same Pemlo on all of them."
            raise ClusterError(f"The workers of {self.address} have no Pemlo.", hint) from error
        if not versions:
            raise ClusterError(f"The cluster at {self.address} has no workers.", "Start some, then ask again.")
        others = {found for found in versions.values() if found != _version()}
        if others:
            raise ClusterError(
                f"Workers of {self.address} have Pemlo {', '.join(sorted(others))}, and here it is {_version()}.",
                "Install the same Pemlo on all of them.",
            )
        return len(versions)


def _nothing(_: None, __: int) -> None:
    """Do nothing, on a worker."""


def _version() -> str:
    return version("pemlo")


def _gathered(
    library: Any,  # noqa: ANN401 - as above
    client: Any,  # noqa: ANN401 - as above
    function: Callable[[S, I], R],
    parts: Sequence[Sequence[I]],
    shared: S,
    done: dict[int, list[R]],
    watch: Monitor,
    what: str,
) -> bool:
    """Call what is not done yet; False if workers were lost, and what they held with them."""
    try:
        handle = client.scatter([shared], broadcast=True)[0]  # in a list: what is a mapping would be taken apart
    except (TimeoutError, OSError):
        return False
    futures = {
        number: client.submit(_several, function, handle, part, pure=False)
        for number, part in enumerate(parts)
        if number not in done
    }
    for number, future in futures.items():
        try:
            done[number] = _result(future, watch, len(done) / len(parts), what)
        except (library.KilledWorker, library.client.FutureCancelledError, library.comm.CommClosedError):
            return False
    return True


def _wait_for_a_worker(client: Any, watch: Monitor) -> None:  # noqa: ANN401 - as above
    """Give lost workers some time to come back."""
    for _ in range(round(BACK_WITHIN_S / LOOKS_EVERY_S)):
        watch.step(0.0, "Waiting for workers of the cluster")
        with suppress(TimeoutError):
            client.wait_for_workers(1, timeout=LOOKS_EVERY_S)
            return


def _several(function: Callable[[S, I], R], shared: S, items: Sequence[I]) -> list[R]:
    """Call a function for some items, on a worker."""
    return [function(shared, item) for item in items]


def _reached(library: Any, address: str, watch: Monitor) -> Any:  # noqa: ANN401 - as above
    """Return a client of a cluster; its library waits for ever for a port that takes calls and says nothing."""
    answers: queue.Queue[Any] = queue.Queue()

    def reach() -> None:
        try:
            answers.put(library.Client(address, timeout=REACHED_WITHIN_S, set_as_default=False))
        except Exception as error:  # noqa: BLE001 - whatever it is, no cluster answers
            answers.put(error)

    threading.Thread(target=reach, daemon=True).start()
    answer: Any = TimeoutError()
    for _ in range(round(REACHED_WITHIN_S / LOOKS_EVERY_S)):
        watch.step(0.0, "Reaching the cluster")
        with suppress(queue.Empty):
            answer = answers.get(timeout=LOOKS_EVERY_S)
            break
    if isinstance(answer, Exception):
        hint = "Start its scheduler, or correct the address."
        raise ClusterError(f"No cluster answers at {address}.", hint) from answer
    return answer


def _result(part: Any, watch: Monitor, fraction: float, what: str) -> Any:  # noqa: ANN401 - as above
    """Wait for a part, and stop waiting when that is wanted."""
    while True:
        watch.step(fraction, what)
        with suppress(TimeoutError):
            return part.result(timeout=LOOKS_EVERY_S)
