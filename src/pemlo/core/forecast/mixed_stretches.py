"""Frames of a film so large that those of one machine in one shot are few: stretches of all machines together. NumPy.

A stretch then says what its shot costs and how fast the machines in it are together. What it does not say any more, how
machines differ, is asked before: frames of a stretch differ from its mean by their machines and by chance alone, and
both are independent for normal errors.
"""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats, Ints

Which = npt.NDArray[np.intp]


@dataclass(frozen=True)
class Contrasts:
    """How frames of machines differ from the stretches that they are in, of M machines.

    Attributes
    ----------
    value : (M,) ndarray
        By how much the middle frame of each took longer, log; 0 of those without frames.
    weights : (M, M) ndarray
        Which speeds that compares: 1 for the machine itself, less the machines of its stretches.
    count : (M,) ndarray
        Frames of each.
    """

    value: Floats
    weights: Floats
    count: Floats


def shares_of(which: Which, machine: Ints, machines: int, stretches: int) -> Floats:
    """Return which share of each stretch's frames each machine rendered, (B, M)."""
    known = (machine >= 0) & (machine < machines)
    flat = which[known] * machines + machine[known]
    count = np.bincount(flat, minlength=stretches * machines).reshape(stretches, machines).astype(float)
    return np.asarray(count / np.maximum(count.sum(axis=1, keepdims=True), 1.0))


def contrasts(which: Which, machine: Ints, share: Floats, logs: Floats) -> Contrasts:
    """Return how machines differ.

    Parameters
    ----------
    which : (K,) ndarray of int
        Stretch of each frame.
    machine : (K,) ndarray of int
        Below 0 where it is not known.
    share : (B, M) ndarray
        As `shares_of`.
    logs : (K,) ndarray
        What frames took on the reference machine by what is known of speeds, log.
    """
    stretches, machines = share.shape
    count = np.bincount(which, minlength=stretches)
    apart = logs - (np.bincount(which, logs, minlength=stretches) / np.maximum(count, 1))[which]
    value, weights, frames = np.zeros(machines), np.zeros((machines, machines)), np.zeros(machines)
    order = np.argsort(machine, kind="stable")
    edges = np.searchsorted(machine[order], np.arange(machines + 1))
    for number in range(machines):
        mine = order[edges[number] : edges[number + 1]]
        if len(mine):
            value[number] = np.median(apart[mine])
            weights[number] = -share[which[mine]].mean(axis=0)
            weights[number, number] += 1.0
            frames[number] = len(mine)
    return Contrasts(value, weights, frames)


def learned_speeds(
    found: Contrasts, offs: Floats, covariance: Floats, scatter: float, random: np.random.Generator
) -> tuple[Floats, Floats]:
    """Return draws of how much faster machines are than given, log, (N, M), and their covariance, after contrasts.

    Parameters
    ----------
    found : Contrasts
    offs : (N, M) ndarray
        Draws before.
    covariance : (M, M) ndarray
        Of these.
    scatter : float
        How far frames scatter, log.
    """
    seen = found.count > 0
    if not seen.any():
        return offs, covariance
    weights, noise = found.weights[seen], scatter**2 / found.count[seen] + 1e-8
    # A faster machine took less long: the sign of what was read is turned.
    wrong = -found.value[seen] - offs @ weights.T + np.sqrt(noise) * random.standard_normal((len(offs), seen.sum()))
    gain = np.linalg.solve(weights @ covariance @ weights.T + np.diag(noise), weights @ covariance).T
    return np.asarray(offs + wrong @ gain.T), np.asarray(covariance - gain @ weights @ covariance)
