"""The rules of the farm as a plain process model: what the compiled run is held against, and measured beside."""

import bisect
import heapq
import itertools
import math
from collections.abc import Generator

import numpy as np
import simpy

from pemlo.core.arrays import Floats
from pemlo.core.farm.run_kernel import LOST, MOST_TRIES, WHERE, scatter, uniform
from pemlo.core.farm.simulation import Farm, RunRules, Work


def by_simpy(machines: Farm, queue: Work, rules: RunRules) -> Floats:  # noqa: C901, PLR0915 - one piece
    """Return when each job is done in the first draw; ties go to the machine that comes first."""
    env = simpy.Environment()
    left = {job: list(range(queue.first[job], queue.first[job + 1])) for job in queue.order.tolist()}
    ended: dict[int, float] = {}
    ends = np.zeros(len(queue.jobs))
    slots = len(machines.slot_group)
    begins, closes = machines.begins.tolist(), machines.ends.tolist()
    spans = [(int(a), int(b)) for a, b in itertools.pairwise(machines.window_of)]
    written, full = 0.0, False
    waiting: list[simpy.Event] = []

    def at(slot: int, time: float) -> simpy.Event:
        event = simpy.Event(env)
        event._ok, event._value = True, None  # noqa: SLF001 - as its own timeouts do, with a priority
        # Straight into its queue: a delay added to the present would miss the moment by the last bit.
        heapq.heappush(env._queue, (max(time, env.now), slot + 2, next(env._eid), event))  # noqa: SLF001
        return event

    def opens(slot: int, time: float) -> tuple[float, float]:
        first, last = spans[machines.slot_group[slot]]
        window = bisect.bisect_right(closes, time, first, last)
        return (math.inf, math.inf) if window == last else (max(time, begins[window]), closes[window])

    def spend(slot: int, time: float, amount: float) -> float:
        while True:
            time, close = opens(slot, time)
            if time == math.inf or time + amount <= close:
                return time + amount
            if rules.carries:
                amount -= close - time
            time = close

    def may_begin(job: int, time: float) -> bool:
        if any(left[other] for other in queue.needs[job]):
            return False
        wanted = [frame for other in queue.needs[job] for frame in range(queue.first[other], queue.first[other + 1])]
        other = int(queue.beside[job])
        if other >= 0:
            middle = queue.first[other] + left[job][0] - queue.first[job]
            wanted += [k for k in (middle - 1, middle, middle + 1) if queue.first[other] <= k < queue.first[other + 1]]
        return all(ended.get(frame, math.inf) <= time for frame in wanted)

    def rendered(slot: int, job: int, number: int, time: float, warm: bool, wait: float) -> float:  # noqa: FBT001
        group, row = machines.slot_group[slot], queue.row[job]
        spot = round(queue.place[number] * (queue.lengths[row] - 1))
        seconds = (queue.kept if warm and queue.keeps[row] else queue.full)[0, row, spot]
        seconds *= scatter(rules.seed, 0, number, queue.deviation) / machines.speed[slot]
        for attempt in itertools.count():
            broken = attempt < MOST_TRIES and uniform(rules.seed, 0, number, attempt, LOST) < machines.loss[group]
            share = uniform(rules.seed, 0, number, attempt, WHERE) if broken else 1.0
            time = spend(slot, time, wait + seconds * share)
            if not broken or time == math.inf:
                break
            step = 1 / (queue.saves[row] + 1)
            seconds *= 1 - math.floor(share / step) * step
            wait = rules.dispatch
        return time

    def take(slot: int, warm: set[int], cannot: set[int]) -> float | None:
        """Take the next frames, and return when the last of them is done; None if there are none now."""
        nonlocal written, full
        for job, frames in left.items():
            row, time, taken = int(queue.row[job]), env.now, 0
            while frames and row not in cannot and taken < rules.chunk:
                start, _ = opens(slot, time)
                if start == math.inf or not may_begin(job, start):
                    break
                if written + queue.gib[job] > rules.disk_gib:
                    full = True
                    break
                done = rendered(slot, job, frames[0], start, row in warm, 0.0 if taken else rules.dispatch)
                if done == math.inf:
                    cannot.add(row)
                    break
                time = ended[frames.pop(0)] = done
                written += queue.gib[job]
                warm.add(row)
                taken += 1
                ends[job] = max(ends[job], done)
            if taken or full:
                return time
        return None

    def machine(slot: int) -> Generator[simpy.Event, None, None]:
        memory, warm = machines.memory_gib[machines.slot_group[slot]], set()
        cannot = {row for row, needs in enumerate(queue.memory_gib) if needs > memory}
        while any(left.values()) and not full:
            start, _ = opens(slot, env.now)
            if start == math.inf:
                return
            yield at(slot, start)
            if full:
                return
            time = take(slot, warm, cannot)
            if time is not None:
                for event in waiting:
                    event.succeed()
                waiting.clear()
                yield at(slot, time)
                continue
            # Look again when the next of what is rendered now is done, or when somebody takes more.
            waiting.append(simpy.Event(env))
            coming = [one for one in ended.values() if one > env.now]
            yield env.any_of([waiting[-1], *([at(slot, min(coming))] if coming else [])])

    for slot in range(slots):
        env.process(machine(slot))
    env.run()
    for job, frames in left.items():
        if frames:
            ends[job] = math.inf
    return ends
