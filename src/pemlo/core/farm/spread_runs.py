"""Spreads the draws of a run over a cluster: the same numbers as here, to the bit, from more machines.

The draws do not depend on each other, and their random numbers come from counters, so that it does not matter who runs
which.
"""

import itertools
from dataclasses import dataclass, fields

import numpy as np

from pemlo.core.cluster import Cluster
from pemlo.core.farm.simulation import Farm, Run, RunRules, Work, simulate
from pemlo.core.progress import Monitor

MOST_PARTS = 64


@dataclass(frozen=True)
class SpreadRuns:
    """Runs draws on a cluster; called like `simulate`."""

    cluster: Cluster

    def __call__(self, farm: Farm, work: Work, rules: RunRules, monitor: Monitor | None = None) -> Run:
        """Run all draws; errors as in `Cluster.each`."""
        count = len(work.full)
        edges = np.linspace(0, count, min(MOST_PARTS, count) + 1).astype(int).tolist()
        spans = list(itertools.pairwise(edges))
        done = self.cluster.each(_part, spans, (farm, work, rules), monitor, "Running the queue on the cluster")
        names = [field.name for field in fields(Run) if field.name != "trace"]
        joined = {name: np.concatenate([getattr(run, name) for run in done]) for name in names}
        return Run(**joined, trace=np.zeros((0, 4)))


def _part(shared: tuple[Farm, Work, RunRules], span: tuple[int, int]) -> Run:
    """Run some draws, on a worker."""
    farm, work, rules = shared
    return simulate(farm, work, rules, draws=span, threads=1)
