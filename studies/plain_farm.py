"""The rules of the farm as a plain process model: what the compiled run is held against, and measured beside."""

import bisect
import itertools
import math
from collections.abc import Generator

import numpy as np
import simpy

from pemlo.core.arrays import Floats
from pemlo.core.farm.run_kernel import LOST, MOST_TRIES, WHERE, scatter, uniform
from pemlo.core.farm.simulation import Farm, Work


def by_simpy(machines: Farm, queue: Work, seed: int, dispatch: float, carries: bool) -> Floats:  # noqa: C901, FBT001, PLR0915 - one piece
    """Return when each shot is done in the first draw; ties go to the machine that comes first."""
    env = simpy.Environment()
    left = list(range(len(queue.shot)))
    ends = np.zeros(len(queue.names))
    slots = len(machines.slot_group)
    begins, closes = machines.begins.tolist(), machines.ends.tolist()
    spans = [(int(a), int(b)) for a, b in itertools.pairwise(machines.window_of)]

    def at(slot: int, time: float) -> simpy.Event:
        event = simpy.Event(env)
        event._ok, event._value = True, None  # noqa: SLF001 - as its own timeouts do, with a priority
        env.schedule(event, priority=slot + 2, delay=max(time - env.now, 0.0))
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
            if carries:
                amount -= close - time
            time = close

    def rendered(slot: int, number: int, warm: bool) -> float:  # noqa: FBT001
        group, mine, time = machines.slot_group[slot], queue.shot[number], env.now
        spot = round(queue.place[number] * (queue.lengths[mine] - 1))
        seconds = (queue.kept if warm and queue.keeps[mine] else queue.full)[0, mine, spot]
        seconds *= scatter(seed, 0, number, queue.deviation) / machines.speed[slot]
        for attempt in itertools.count():
            broken = attempt < MOST_TRIES and uniform(seed, 0, number, attempt, LOST) < machines.loss[group]
            share = uniform(seed, 0, number, attempt, WHERE) if broken else 1.0
            time = spend(slot, time, dispatch + seconds * share)
            if not broken or time == math.inf:
                break
            step = 1 / (queue.saves[mine] + 1)
            seconds *= 1 - math.floor(share / step) * step
        return time

    def machine(slot: int) -> Generator[simpy.Event, None, None]:
        memory, warm = machines.memory_gib[machines.slot_group[slot]], set()
        cannot = {mine for mine, needs in enumerate(queue.memory_gib) if needs > memory}
        while True:
            start, _ = opens(slot, env.now)
            if start == math.inf:
                return
            yield at(slot, start)
            time = math.inf
            while time == math.inf:
                number = next((k for k in left if queue.shot[k] not in cannot), None)
                if number is None:
                    return
                mine = queue.shot[number]
                time = rendered(slot, number, mine in warm)
                if time == math.inf:
                    cannot.add(mine)
            left.remove(number)  # it stands near the front
            warm.add(mine)
            ends[mine] = max(ends[mine], time)
            yield at(slot, time)

    for slot in range(slots):
        env.process(machine(slot))
    env.run()
    for number in left:
        ends[queue.shot[number]] = math.inf
    return ends
