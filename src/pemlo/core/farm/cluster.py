"""Spreads the draws of a run over a Dask cluster: the same numbers as here, to the bit, from more machines.

The draws do not depend on each other, and their random numbers come from counters, so that it does not matter who runs
which. Every worker needs the same Pemlo. The package of the cluster is optional: ``pip install pemlo[cluster]``.
"""

import itertools
import queue
import threading
from contextlib import suppress
from dataclasses import fields
from typing import Any

import numpy as np

from pemlo.core.errors import InputError
from pemlo.core.farm.simulation import Farm, Run, RunRules, Work, simulate
from pemlo.core.progress import Monitor, Unwatched

SCHEME = "dask://"
PARTS_A_WORKER = 4
REACHED_WITHIN_S, LOOKS_EVERY_S = 10, 0.5


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


class Cluster:
    """A cluster that runs draws, used like `simulate`.

    Parameters
    ----------
    address : str
        Of its scheduler, as `address_of` gives it.
    """

    def __init__(self, address: str) -> None:
        self._address = address

    def __call__(self, farm: Farm, work: Work, rules: RunRules, monitor: Monitor | None = None) -> Run:
        """Run all draws.

        Raises
        ------
        InputError
            If the package is not there, the cluster is not reached, has no workers, or these have no Pemlo.
        """
        try:
            import distributed  # noqa: PLC0415 - optional
        except ImportError as error:
            raise InputError("Dask is not installed here.", "Install it with: pip install pemlo[cluster]") from error
        watch = monitor or Unwatched()
        cluster: Any = distributed  # it says no types
        with _reached(cluster, self._address, watch) as client:
            workers = len(client.scheduler_info(n_workers=-1)["workers"])
            if not workers:
                raise InputError(f"The cluster at {self._address} has no workers.", "Start some, then ask again.")
            shared = client.scatter((farm, work), broadcast=True)
            edges = np.linspace(0, len(work.full), min(workers * PARTS_A_WORKER, len(work.full)) + 1).astype(int)
            parts = [
                client.submit(_part, shared, rules, int(a), int(b), pure=False) for a, b in itertools.pairwise(edges)
            ]
            done = []
            for number, part in enumerate(parts):
                try:
                    done.append(_result(part, watch, number / len(parts)))
                except ModuleNotFoundError as error:
                    hint = "Install the same Pemlo on all of them."
                    raise InputError(f"The workers of {self._address} have no Pemlo.", hint) from error
        names = [field.name for field in fields(Run) if field.name != "trace"]
        joined = {name: np.concatenate([getattr(run, name) for run in done]) for name in names}
        return Run(**joined, trace=np.zeros((0, 4)))


def _reached(cluster: Any, address: str, watch: Monitor) -> Any:  # noqa: ANN401 - as above
    """Return a client of a cluster; its library waits for ever for a port that takes calls and says nothing."""
    answers: queue.Queue[Any] = queue.Queue()

    def reach() -> None:
        try:
            answers.put(cluster.Client(address, timeout=REACHED_WITHIN_S, set_as_default=False))
        except Exception as error:  # noqa: BLE001 - whatever it is, no cluster answers
            answers.put(error)

    threading.Thread(target=reach, daemon=True).start()
    found: Any = TimeoutError()
    for _ in range(round(2 * REACHED_WITHIN_S / LOOKS_EVERY_S)):
        watch.step(0.0, "Reaching the cluster")
        with suppress(queue.Empty):
            found = answers.get(timeout=LOOKS_EVERY_S)
            break
    if isinstance(found, Exception):
        raise InputError(f"No cluster answers at {address}.", "Start its scheduler, or correct the address.") from found
    return found


def _result(part: Any, watch: Monitor, fraction: float) -> Run:  # noqa: ANN401 - as above
    """Wait for a part, and stop waiting when that is wanted."""
    while True:
        watch.step(fraction, "Running the queue on the cluster")
        with suppress(TimeoutError):
            made: Run = part.result(timeout=LOOKS_EVERY_S)
            return made


def _part(shared: tuple[Farm, Work], rules: RunRules, first: int, last: int) -> Run:
    """Run some draws, on a worker."""
    farm, work = shared
    return simulate(farm, work, rules, draws=(first, last), threads=1)
