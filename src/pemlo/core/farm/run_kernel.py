"""One run of the farm, frame by frame: whoever is free first takes the next frame it can. Compiled.

The work is jobs of frames, in an order. A machine that is free takes the next frames of the first job in that order
that it can: one whose frames fit into its memory, and that waits for nothing. A machine that could not end a frame in
the hours that it has left takes no more of its kind.

All times are seconds since the start of rendering. Randomness comes from counters, not from a state: the same seed,
draw, frame and try always give the same number, whichever thread asks, and another model can be given the same ones.
"""

import math

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats, Ints
from pemlo.core.compiler import numba

Bools = npt.NDArray[np.bool_]
MOST_TRIES = 1000
LOST, WHERE, SCATTER_ONE, SCATTER_OTHER = 0, 1, 2, 3  # what a random number is for
_MIX = np.uint64(0x9E3779B97F4A7C15)
_FIRST, _SECOND = np.uint64(0xBF58476D1CE4E5B9), np.uint64(0x94D049BB133111EB)

# Put where it is called, and counting no references: counting them took most of the time (`docs/decisions/0004`).
_inlined = numba.njit(cache=True, nogil=True, forceinline=True, _nrt=False)


@_inlined
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


@_inlined
def scatter(seed: int, draw: int, frame: int, deviation: float) -> float:
    """Return by what factor a frame's time differs from what is expected of it: log-normal, with mean 1."""
    if deviation <= 0.0:
        return 1.0
    radius = math.sqrt(-2.0 * math.log(uniform(seed, draw, frame, 0, SCATTER_ONE)))
    normal = radius * math.cos(2.0 * math.pi * uniform(seed, draw, frame, 0, SCATTER_OTHER))
    return math.exp(deviation * normal - 0.5 * deviation * deviation)


@_inlined
def _push(times: Floats, slots: Ints, size: int, time: float, slot: int) -> int:
    """Put a slot in, and move down whatever comes after it on its way."""
    child = size
    while child > 0:
        parent = (child - 1) // 2
        if times[parent] < time or (times[parent] == time and slots[parent] < slot):
            break
        times[child], slots[child] = times[parent], slots[parent]
        child = parent
    times[child], slots[child] = time, slot
    return size + 1


@_inlined
def _put_first(times: Floats, slots: Ints, size: int, time: float, slot: int) -> None:
    """Put a slot in place of the first, and move up whatever comes before it on its way down."""
    parent, child = 0, 1
    while child < size:
        other = child + 1
        if other < size and (
            times[other] < times[child] or (times[other] == times[child] and slots[other] < slots[child])
        ):
            child = other
        if time < times[child] or (time == times[child] and slot < slots[child]):
            break
        times[parent], slots[parent] = times[child], slots[child]
        parent, child = child, 2 * child + 1
    times[parent], slots[parent] = time, slot


@_inlined
def _pop(times: Floats, slots: Ints, size: int) -> int:
    """Take the first away."""
    _put_first(times, slots, size - 1, times[size - 1], slots[size - 1])
    return size - 1


@_inlined
def _opens(time: float, window: int, last: int, begins: Floats, ends: Floats) -> tuple[float, int]:
    """Return when a machine is free from a time on, and in which of its windows; infinity if never again."""
    while window < last:
        if time < ends[window]:
            return max(time, begins[window]), window
        window += 1
    return math.inf, window


@_inlined
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


@_inlined
def _render(
    seconds: float,
    seed: int,
    draw: int,
    number: int,
    loss: float,
    saves: int,
    dispatch: float,
    again: float,
    time: float,
    window: int,
    last: int,
    begins: Floats,
    ends: Floats,
    carries: bool,  # noqa: FBT001
) -> tuple[float, int, int, float, float]:
    """Return when a frame is done that a slot begins at a time, its window then, tries, seconds used and lost.

    Before the first try it waits `dispatch` seconds, before each other `again`.
    """
    busy, lost, attempt, waits = 0.0, 0.0, 0, dispatch
    while True:
        broken = loss > 0.0 and attempt < MOST_TRIES and uniform(seed, draw, number, attempt, LOST) < loss
        share = uniform(seed, draw, number, attempt, WHERE) if broken else 1.0
        work = waits + seconds * share
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
        lost += waits + seconds * (share - saved)
        seconds *= 1.0 - saved
        waits = again


@_inlined
def _ready(
    job: int, upcoming: Ints, first: Ints, needs_of: Ints, needs: Ints, beside: Ints, ends: Floats, done: Floats
) -> float:
    """Return from when on the next frame of a job may begin; -1 while that is not known yet."""
    ready = 0.0
    for at in range(needs_of[job], needs_of[job + 1]):
        other = needs[at]
        if upcoming[other] < first[other + 1]:
            return -1.0
        ready = max(ready, ends[other])
    other = beside[job]
    if other >= 0:
        # A frame waits for the same one of the other job, and for those before and after it.
        middle = first[other] + upcoming[job] - first[job]
        last = min(middle + 1, first[other + 1] - 1)
        if upcoming[other] <= last:
            return -1.0
        for frame in range(max(middle - 1, first[other]), last + 1):
            ready = max(ready, done[frame])
    return ready


@_inlined
def _expected(draw: int, row: int, place: float, lengths: Ints, table: Floats) -> float:
    """Return the seconds of a frame at a place of its row: straight between the places that the table has."""
    at = place * (lengths[row] - 1)
    low = int(at)
    high = min(low + 1, lengths[row] - 1)
    return float(table[draw, row, low] + (at - low) * (table[draw, row, high] - table[draw, row, low]))


@numba.njit(cache=True, nogil=True, _nrt=False)
def run_draws(  # noqa: C901, PLR0912, PLR0915 - one loop: parts of it would hand over every array
    first_draw: int,
    last_draw: int,
    seed: int,
    order: Ints,
    first: Ints,
    row_of: Ints,
    place: Floats,
    full: Floats,
    kept: Floats,
    lengths: Ints,
    deviation: float,
    keeps: Bools,
    saves: Ints,
    gib: Floats,
    disk: float,
    needs_of: Ints,
    needs: Ints,
    beside: Ints,
    slot_group: Ints,
    speed: Floats,
    pace: Floats,
    loss: Floats,
    free_from: Floats,
    present: float,
    share: Floats,
    window_of: Ints,
    begins: Floats,
    ends: Floats,
    dispatch: float,
    chunk: int,
    carries: bool,  # noqa: FBT001 - compiled code takes arguments by place
    finish: Floats,
    busy: Floats,
    warming: Floats,
    lost: Floats,
    holder: Ints,
    full_at: Floats,
    trace: Floats,
    times: Floats,
    slots: Ints,
    window: Ints,
    idle: Ints,
    warm: Bools,
    hopeless: Bools,
    upcoming: Ints,
    alone: Bools,
    done_at: Floats,
) -> None:
    """Run some draws, and put what they come to into the last arrays.

    Parameters
    ----------
    first_draw, last_draw : int
        The draws that are run.
    order : (J,) ndarray of int
        Jobs in the order in which they are handed out.
    first : (J + 1,) ndarray of int
        Where the frames of each job begin, among all frames.
    row_of : (J,) ndarray of int
        Of each job: where it stands among the costs. Jobs of one row keep the same data.
    place : (F,) ndarray
        Where each frame stands among its row's places.
    full, kept : (D, R, L) ndarray
        Seconds of a frame on the reference machine at L places of each row, worked out whole, and with what is kept;
        `lengths` (R,) says how many places count. Between them it runs straight.
    deviation : float
        Of the log of a frame's time about what is expected.
    keeps : (R,) ndarray of bool
        Whether data are kept: the first frame of the row that a slot takes is worked out whole.
    saves : (R,) ndarray of int
        How often an unfinished frame is written: of a lost one only the part since the last save is lost.
    gib : (J,) ndarray, disk : float
        What a frame takes on disk, and what there is; once that is full, no other frame begins.
    needs_of : (J + 1,) ndarray of int, needs : (K,) ndarray of int
        Jobs of which all must be done before any frame of a job begins.
    beside : (J,) ndarray of int
        A job of as many frames: each frame waits for the same one of it and for its neighbours; -1 for none.
    slot_group : (M,) ndarray of int, speed : (M,) ndarray
        Group of each slot, and its reference seconds in a second.
    pace : (D, G) ndarray
        By what factor each group is faster than its slots' speeds say.
    loss : (D, G) ndarray
        Chance that a frame is lost.
    free_from : (M,) ndarray, present : float
        From when on each slot takes frames. What it took before the present cannot have ended before it.
    share : (G, R) ndarray
        Of a slot's speed, what is left of it with frames of a row: 0 where they are not rendered there.
    window_of : (G + 1,) ndarray of int, begins, ends : (W,) ndarray
        Where each group's windows begin, and the windows.
    dispatch : float
        Seconds before each chunk.
    chunk : int
        How many frames of a job a slot takes at a time.
    carries : bool
        Whether a frame at the end of a machine's hours goes on in the next of them; else it starts again.
    finish : (D, J) ndarray
        When the last frame of each job is done; infinity if never.
    busy, warming, lost : (D, G) ndarray
        Seconds of slots: of all work, of it for data that are kept then, and of it lost.
    holder : (D,) ndarray of int
        Group of the slot that ended last.
    full_at : (D,) ndarray
        When the disk was full; infinity if it never is.
    trace : (F, 4) ndarray, or (0, 4)
        Slot, begin, end and tries of each frame, of the last draw.
    times, slots, window, idle : (M,) ndarray
    warm, hopeless : (M, R) ndarray of bool
    upcoming : (J,) ndarray of int
    done_at : (F,) ndarray, or (0,) where no job has one beside it
        To work in: compiled code that makes no arrays counts no references, for which threads would wait.
    alone : (J,) ndarray of bool
        Jobs that wait for none.
    """
    count, jobs = len(slot_group), len(order)
    waits = len(done_at) > 0
    for draw in range(first_draw, last_draw):
        size, idling, end, head, used = 0, 0, 0.0, 0, 0.0
        warm[:, :] = False
        hopeless[:, :] = False
        for job in range(jobs):
            upcoming[job] = first[job]
        finish[draw, :] = 0.0
        full_at[draw] = math.inf
        holder[draw] = -1
        for slot in range(count):
            group = slot_group[slot]
            opens, window[slot] = _opens(free_from[slot], window_of[group], window_of[group + 1], begins, ends)
            if opens < math.inf:
                size = _push(times, slots, size, opens, slot)
        while size > 0 and full_at[draw] == math.inf:
            while head < jobs and upcoming[order[head]] == first[order[head] + 1]:
                head += 1
            if head == jobs:
                break
            slot, now, asked = slots[0], times[0], times[0]
            group = slot_group[slot]
            last = window_of[group + 1]
            wake, unknown, taken = math.inf, False, 0
            for at in range(head, jobs):
                job = order[at]
                row = row_of[job]
                if upcoming[job] == first[job + 1] or hopeless[slot, row] or share[group, row] == 0.0:
                    continue
                done = now
                while taken < chunk and upcoming[job] < first[job + 1]:
                    start, window[slot] = _opens(done, window[slot], last, begins, ends)
                    if start == math.inf:
                        break
                    if not alone[job]:
                        ready = _ready(job, upcoming, first, needs_of, needs, beside, finish[draw], done_at)
                        if ready < 0.0 or ready > start:
                            unknown = unknown or ready < 0.0
                            if ready >= 0.0:
                                wake = min(wake, ready)
                            break
                    if used + gib[job] > disk:
                        full_at[draw] = start
                        break
                    number = upcoming[job]
                    rate = speed[slot] * pace[draw, group] * share[group, row]
                    factor = scatter(seed, draw, number, deviation)
                    filled = keeps[row] and warm[slot, row]
                    seconds = factor * _expected(draw, row, place[number], lengths, kept if filled else full)
                    ended, after, tries, spent, gone = _render(
                        seconds / rate, seed, draw, number, loss[draw, group], saves[row],
                        dispatch if taken == 0 else 0.0, dispatch, start, window[slot], last, begins, ends, carries,
                    )  # fmt: skip
                    if ended == math.inf:
                        hopeless[slot, row] = True
                        break
                    if start < present:
                        ended = max(ended, present)
                    if len(trace):
                        trace[number, 0], trace[number, 1], trace[number, 2], trace[number, 3] = (
                            slot,
                            start,
                            ended,
                            tries,
                        )
                    upcoming[job] += 1
                    taken += 1
                    used += gib[job]
                    window[slot], done = after, ended
                    finish[draw, job] = max(finish[draw, job], done)
                    if waits:
                        done_at[number] = done
                    busy[draw, group] += spent
                    lost[draw, group] += gone
                    if keeps[row] and not filled:
                        part = factor * _expected(draw, row, place[number], lengths, kept)
                        warming[draw, group] += (seconds - part) / rate
                        warm[slot, row] = True
                if taken or full_at[draw] < math.inf:
                    now = done
                    break
            if taken and now >= end:
                end, holder[draw] = now, group
            if not taken and wake < math.inf:
                now = wake
            elif not taken:
                size = _pop(times, slots, size)
                if unknown:
                    idle[idling] = slot
                    idling += 1
                continue
            opens, window[slot] = _opens(now, window[slot], last, begins, ends)
            if opens < math.inf:  # it stays, and only moves down
                _put_first(times, slots, size, opens, slot)
            else:
                size = _pop(times, slots, size)
            if taken:
                for back in range(idling):  # when what they wait for is done may be known now
                    other = idle[back]
                    ends_at = window_of[slot_group[other] + 1]
                    opens, window[other] = _opens(asked, window[other], ends_at, begins, ends)
                    if opens < math.inf:
                        size = _push(times, slots, size, opens, other)
                idling = 0
        for job in range(jobs):
            if upcoming[job] < first[job + 1]:
                finish[draw, job] = math.inf
