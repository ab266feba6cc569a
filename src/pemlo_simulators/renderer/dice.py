"""Random numbers by counting: which number comes depends on seed, stream and count alone, never on who asked before.

So a pixel's sample is the same on any number of threads and in any order, and a frame can be topped up.
"""

import numpy as np

from pemlo.core.arrays import Floats
from pemlo_simulators.renderer.compiled import compiled, compiled_with_arrays

_STEP = np.uint64(0x9E3779B97F4A7C15)
_MIX_A = np.uint64(0xBF58476D1CE4E5B9)
_MIX_B = np.uint64(0x94D049BB133111EB)
_TO_UNIT = 1.0 / 9007199254740992.0

# The dice of one sample: one 64-bit state in an array of one.
Dice = np.ndarray


@compiled
def _mixed(value: np.uint64) -> np.uint64:
    value = (value ^ (value >> np.uint64(30))) * _MIX_A
    value = (value ^ (value >> np.uint64(27))) * _MIX_B
    return value ^ (value >> np.uint64(31))


@compiled
def take_up(dice: Dice, seed: int, stream: int, number: int) -> None:
    """Set the dice to the start of sample `number` of a stream (a pixel).

    References
    ----------
    .. [1] G. Steele, D. Lea, C. Flood, "Fast splittable pseudorandom number generators", OOPSLA 2014: the n-th
       number is a mix of start + n * step.
    """
    key = _mixed(np.uint64(seed) + _STEP)
    key = _mixed(key ^ (np.uint64(stream) * _MIX_A + _STEP))
    dice[0] = _mixed(key ^ (np.uint64(number) * _MIX_B + _STEP))


@compiled
def roll(dice: Dice) -> float:
    """Return the next number, evenly spread over [0, 1)."""
    dice[0] += _STEP
    return float(_mixed(dice[0]) >> np.uint64(11)) * _TO_UNIT


@compiled_with_arrays
def rolls(seed: int, stream: int, number: int, count: int) -> Floats:
    """Return the first `count` numbers of one sample, as an array of shape (count,)."""
    dice = np.empty(1, np.uint64)
    take_up(dice, seed, stream, number)
    found = np.empty(count)
    for i in range(count):
        found[i] = roll(dice)
    return found
