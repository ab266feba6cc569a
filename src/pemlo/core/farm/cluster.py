"""Spreads the draws of a run over a Dask cluster: the same numbers as here, to the bit, from more machines.

The draws do not depend on each other, and their random numbers come from counters, so that it does not matter who runs
which. Every worker needs the same Pemlo. The package of the cluster is optional: ``pip install pemlo[cluster]``.
"""

import itertools
from dataclasses import fields
from typing import Any

import numpy as np

from pemlo.core.errors import InputError
from pemlo.core.farm.simulation import Farm, Run, RunRules, Work, simulate
from pemlo.core.progress import Monitor, Unwatched

SCHEME = "dask://"
PARTS_A_WORKER = 4
REACHED_WITHIN_S = 10


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
    if not text.strip().startswith(SCHEME) or not colon or not host or not port.isdigit():
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
        try:
            client = cluster.Client(self._address, timeout=REACHED_WITHIN_S, set_as_default=False)
        except (OSError, TimeoutError) as error:
            raise InputError(
                f"No cluster answers at {self._address}.", "Start its scheduler, or mend the address."
            ) from error
        with client:
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
                watch.step(number / len(parts), "Running the queue on the cluster")
                try:
                    done.append(part.result())
                except ModuleNotFoundError as error:
                    hint = "Install the same Pemlo on all of them."
                    raise InputError(f"The workers of {self._address} have no Pemlo.", hint) from error
        names = [one.name for one in fields(Run) if one.name != "trace"]
        joined = {name: np.concatenate([getattr(one, name) for one in done]) for name in names}
        return Run(**joined, trace=np.zeros((0, 4)))


def _part(shared: tuple[Farm, Work], rules: RunRules, first: int, last: int) -> Run:
    """Run some draws, on a worker."""
    farm, work = shared
    return simulate(farm, work, rules, draws=(first, last), threads=1)
