"""One run of the farm, frame by frame: whoever is free first takes the next frame it can. Compiled.

A frame goes only to a machine that has the memory, and ends it in the hours that it has left; a machine that could not
end a frame of a shot takes no more of that shot.

All times are seconds since the start of rendering. Randomness comes from counters, not from a state: the same seed,
draw, frame and try always give the same number, whichever thread asks, and another model can be given the same ones.
"""

import math

import numba
import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats

Ints = npt.NDArray[np.int64]
Bools = npt.NDArray[np.bool_]
MOST_TRIES = 1000
LOST, WHERE, SCATTER_ONE, SCATTER_OTHER = 0, 1, 2, 3  # what a random number is for
_MIX = np.uint64(0x9E3779B97F4A7C15)
_FIRST, _SECOND = np.uint64(0xBF58476D1CE4E5B9), np.uint64(0x94D049BB133111EB)


@numba.njit(cache=True, nogil=True)
def uniform(seed: int, draw: int, frame: int, attempt: int, purpose: int) -> float:
    """Return a number between 0 and 1 that depends on nothing but its arguments.

    References
    ----------
    .. [1] The finaliser of SplitMix64: G. Steele, D. Lea, C. Flood, "Fast splittable pseudorandom number generators",
       OOPSLA 2014 (constants from memory).
    """
    state = np.uint64(seed)
    for part in (draw, frame, attempt, purpose):
        state = state + _MIX + np.uint64(part)
        state = (state ^ (state >> np.uint64(30))) * _FIRST
        state = (state ^ (state >> np.uint64(27))) * _SECOND
        state = state ^ (state >> np.uint64(31))
    return (float(state >> np.uint64(11)) + 0.5) * (1.0 / 9007199254740992.0)


@numba.njit(cache=True, nogil=True)
def scatter(seed: int, draw: int, frame: int, deviation: float) -> float:
    """Return by what factor a frame's time differs from what is expected of it: log-normal, with mean 1."""
    if deviation <= 0.0:
        return 1.0
    radius = math.sqrt(-2.0 * math.log(uniform(seed, draw, frame, 0, SCATTER_ONE)))
    normal = radius * math.cos(2.0 * math.pi * uniform(seed, draw, frame, 0, SCATTER_OTHER))
    return math.exp(deviation * normal - 0.5 * deviation * deviation)


@numba.njit(cache=True, nogil=True)
def _before(times: Floats, slots: Ints, one: int, other: int) -> bool:
    return bool(times[one] < times[other] or (times[one] == times[other] and slots[one] < slots[other]))


@numba.njit(cache=True, nogil=True)
def _swap(times: Floats, slots: Ints, one: int, other: int) -> None:
    times[one], times[other] = times[other], times[one]
    slots[one], slots[other] = slots[other], slots[one]


@numba.njit(cache=True, nogil=True)
def _push(times: Floats, slots: Ints, size: int, time: float, slot: int) -> int:
    times[size], slots[size] = time, slot
    child = size
    while child > 0:
        parent = (child - 1) // 2
        if not _before(times, slots, child, parent):
            break
        _swap(times, slots, child, parent)
        child = parent
    return size + 1


@numba.njit(cache=True, nogil=True)
def _pop(times: Floats, slots: Ints, size: int) -> int:
    """Take the first away; it is left at the end."""
    size -= 1
    _swap(times, slots, 0, size)
    parent = 0
    while True:
        child = 2 * parent + 1
        if child >= size:
            break
        if child + 1 < size and _before(times, slots, child + 1, child):
            child += 1
        if not _before(times, slots, child, parent):
            break
        _swap(times, slots, child, parent)
        parent = child
    return size


@numba.njit(cache=True, nogil=True)
def _opens(time: float, window: int, last: int, begins: Floats, ends: Floats) -> tuple[float, int]:
    """Return when a machine is free from a time on, and in which of its windows; infinity if never again."""
    while window < last:
        if time < ends[window]:
            return max(time, begins[window]), window
        window += 1
    return math.inf, window


@numba.njit(cache=True, nogil=True)
def _spend(
    time: float,
    work: float,
    window: int,
    last: int,
    begins: Floats,
    ends: Floats,
    carries: bool,  # noqa: FBT001
) -> tuple[float, int, float]:
    """Return when so much work is done that begins at a time, the window then, and seconds that were cut off and lost.

    A frame at the end of a machine's hours goes on in the next of them, or starts again there.
    """
    lost, left = 0.0, work
    while True:
        time, window = _opens(time, window, last, begins, ends)
        if time == math.inf or time + left <= ends[window]:
            return time + left, window, lost
        here = ends[window] - time
        if carries:
            left -= here
        else:
            lost += here
        time = ends[window]
        window += 1


@numba.njit(cache=True, nogil=True)
def _render(
    seconds: float,
    seed: int,
    draw: int,
    number: int,
    loss: float,
    saves: int,
    dispatch: float,
    time: float,
    window: int,
    last: int,
    begins: Floats,
    ends: Floats,
    carries: bool,  # noqa: FBT001
) -> tuple[float, int, int, float, float]:
    """Return when a frame is done that a slot begins at a time, its window then, tries, seconds used and lost."""
    busy, lost, attempt = 0.0, 0.0, 0
    while True:
        broken = attempt < MOST_TRIES and uniform(seed, draw, number, attempt, LOST) < loss
        share = uniform(seed, draw, number, attempt, WHERE) if broken else 1.0
        work = dispatch + seconds * share
        time, window, cut = _spend(time, work, window, last, begins, ends, carries)
        if time == math.inf:
            return time, window, attempt, busy, lost
        busy += work + cut
        lost += cut
        attempt += 1
        if not broken:
            return time, window, attempt, busy, lost
        # What was saved before it broke need not be worked out again.
        step = 1.0 / (saves + 1)
        saved = math.floor(share / step) * step
        lost += dispatch + seconds * (share - saved)
        seconds *= 1.0 - saved


@numba.njit(cache=True, nogil=True)
def run_draws(  # noqa: C901, PLR0912, PLR0915 - one loop: parts of it would hand over every array
    first_draw: int,
    last_draw: int,
    seed: int,
    shot: Ints,
    place: Floats,
    full: Floats,
    kept: Floats,
    lengths: Ints,
    deviation: float,
    keeps: Bools,
    saves: Ints,
    slot_group: Ints,
    speed: Floats,
    loss: Floats,
    fits: Bools,
    window_of: Ints,
    begins: Floats,
    ends: Floats,
    dispatch: float,
    carries: bool,  # noqa: FBT001 - compiled code takes arguments by place
    finish: Floats,
    busy: Floats,
    warming: Floats,
    lost: Floats,
    holder: Ints,
    trace: Floats,
) -> None:
    """Run some draws, and put what they come to into the last arrays.

    Parameters
    ----------
    first_draw, last_draw : int
        The draws that are run.
    shot, place : (F,) ndarray
        Of each frame in the order of the queue: its shot, and where it stands among the shot's places.
    full, kept : (D, S, L) ndarray
        Seconds of a frame on the reference machine at L places of each shot, worked out whole, and with what is kept;
        `lengths` (S,) says how many places count. Between them it runs straight.
    deviation : float
        Of the log of a frame's time about what is expected.
    keeps : (S,) ndarray of bool
        Whether data are kept: the first frame of the shot that a slot takes is worked out whole.
    saves : (S,) ndarray of int
        How often an unfinished frame is written: of a lost one only the part since the last save is lost.
    slot_group : (M,) ndarray of int, speed : (M,) ndarray
        Group of each slot, and its reference seconds in a second.
    loss : (G,) ndarray
        Chance that a frame is lost.
    fits : (G, S) ndarray of bool
        Whether frames of a shot fit into the memory.
    window_of : (G + 1,) ndarray of int, begins, ends : (W,) ndarray
        Where each group's windows begin, and the windows.
    dispatch : float
        Seconds before each frame.
    carries : bool
        Whether a frame at the end of a machine's hours goes on in the next of them; else it starts again.
    finish : (D, S) ndarray
        When the last frame of each shot is done; infinity if never.
    busy, warming, lost : (D, G) ndarray
        Seconds of slots: of all work, of it for data that are kept then, and of it lost.
    holder : (D,) ndarray of int
        Group of the slot that ended last.
    trace : (F, 4) ndarray, or (0, 4)
        Slot, begin, end and tries of each frame, of the last draw.
    """
    count, shots = len(slot_group), full.shape[1]
    times, slots = np.empty(count), np.empty(count, np.int64)
    stash_times, stash_slots = np.empty(count), np.empty(count, np.int64)
    window = np.empty(count, np.int64)
    warm, hopeless = np.empty((count, shots), np.bool_), np.empty((count, shots), np.bool_)
    for draw in range(first_draw, last_draw):
        size, stashed, end = 0, 0, 0.0  # those that can take no frame of the shot stand aside until the next
        warm[:], hopeless[:] = False, False
        finish[draw, :] = 0.0
        holder[draw] = -1
        for slot in range(count):
            group = slot_group[slot]
            opens, window[slot] = _opens(0.0, window_of[group], window_of[group + 1], begins, ends)
            if opens < math.inf:
                size = _push(times, slots, size, opens, slot)
        for number in range(len(shot)):
            mine = shot[number]
            if number and mine != shot[number - 1]:
                for back in range(stashed):
                    size = _push(times, slots, size, stash_times[back], stash_slots[back])
                stashed = 0
            if finish[draw, mine] == math.inf:
                continue  # nobody could take a frame of the shot, and later nobody can
            at = place[number] * (lengths[mine] - 1)
            low = int(at)
            high = min(low + 1, lengths[mine] - 1)
            factor = scatter(seed, draw, number, deviation)
            whole = factor * (full[draw, mine, low] + (at - low) * (full[draw, mine, high] - full[draw, mine, low]))
            part = factor * (kept[draw, mine, low] + (at - low) * (kept[draw, mine, high] - kept[draw, mine, low]))
            done = math.inf
            while size > 0 and done == math.inf:
                size = _pop(times, slots, size)
                slot, began = slots[size], times[size]
                group = slot_group[slot]
                if fits[group, mine] and not hopeless[slot, mine]:
                    seconds = part if keeps[mine] and warm[slot, mine] else whole
                    done, after, tries, used, gone = _render(
                        seconds / speed[slot], seed, draw, number, loss[group], saves[mine], dispatch,
                        began, window[slot], window_of[group + 1], begins, ends, carries,
                    )  # fmt: skip
                if done == math.inf:
                    hopeless[slot, mine] = True
                    stash_times[stashed], stash_slots[stashed] = began, slot
                    stashed += 1
            finish[draw, mine] = max(finish[draw, mine], done)
            if done < math.inf:
                window[slot] = after
                busy[draw, group] += used
                lost[draw, group] += gone
                if keeps[mine] and not warm[slot, mine]:
                    warming[draw, group] += (whole - part) / speed[slot]
                    warm[slot, mine] = True
                if done >= end:
                    end, holder[draw] = done, group
                if len(trace):
                    trace[number, 0], trace[number, 1], trace[number, 2], trace[number, 3] = slot, began, done, tries
                opens, window[slot] = _opens(done, after, window_of[group + 1], begins, ends)
                if opens < math.inf:
                    size = _push(times, slots, size, opens, slot)
