"""Who renders which frame when on the small farm, event by event, with what goes wrong. Pure Python."""

import heapq
import math
from collections.abc import Container, Sequence
from dataclasses import dataclass

import numpy as np

from pemlo.core.arrivals.farm_faults import FULL_S, POWER_S, SLOW_FACTOR, Fault
from pemlo.core.farm.calendar import spans_of
from pemlo.core.forecast.jobs import EARLY, Job, jobs_of, needs_of, order_of
from pemlo.core.project.project import Project
from pemlo.core.units import HOUR_S
from pemlo_simulators.farm.truth import Truth

DAYS = 400
ROUNDING_S = 1e-6  # hours of machines are known to that


@dataclass(frozen=True, order=True)
class Delivered:
    """A frame that a machine is done with.

    Attributes
    ----------
    at, begun : float
        When it was written, and when the try that led to it began; seconds since the start.
    shot : str
    frame : int
    machine : str
    slot : int
        Among all slots of the farm.
    seconds : float
        What the machine took for it; time in which it was not free does not count.
    tries : int
    early : bool
        Whether it is of the first pass.
    disk_full : bool
    """

    at: float
    begun: float
    shot: str
    frame: int
    machine: str
    slot: int
    seconds: float
    tries: int
    early: bool
    disk_full: bool


@dataclass
class _Slot:
    """A slot of a machine, and when it is free."""

    machine: int
    number: int
    spans: list[tuple[float, float]]
    window: int = 0

    def opens(self, time: float) -> float:
        while self.window < len(self.spans) and time >= self.spans[self.window][1]:
            self.window += 1
        return math.inf if self.window == len(self.spans) else max(time, self.spans[self.window][0])

    def spend(self, time: float, work: float, *, carries: bool) -> float:
        """Return when work is done that begins at a time."""
        left = work
        while True:
            time = self.opens(time)
            if time == math.inf or time + left <= self.spans[self.window][1] + ROUNDING_S:
                return time + left
            if carries:
                left -= self.spans[self.window][1] - time
            time = self.spans[self.window][1]


def deliveries(
    project: Project,
    truth: Truth,
    faults: Sequence[Fault] = (),
    seed: int = 0,
    done: Container[tuple[str, int, bool]] = (),
    since: float = 0.0,
) -> tuple[Delivered, ...]:
    """Return all frames that the farm delivers, in the order of time.

    Parameters
    ----------
    project : Project
        With its jobs, their order, machines, hours and rules.
    truth : Truth
    faults : sequence of Fault
    seed : int
        Of losses and of the order, if that is wrong.
    done : container of (str, int, bool)
        Frames that are delivered, by shot, number, and whether of the first pass.
    since : float
        From when on machines take frames, seconds since the start.
    """
    random = np.random.default_rng([seed, 31])
    hours = {shot.name: float(truth.seconds[shot.name].sum()) / HOUR_S for shot in project.shots}
    jobs = [job for job in jobs_of(project) if job.part not in {"denoise", "again"}]
    left = {
        number: [frame for frame in job.frames.tolist() if (job.shot.name, frame, job.part == EARLY) not in done]
        for number, job in enumerate(jobs)
    }
    if any(fault.kind == "order" for fault in faults):
        for frames in left.values():
            random.shuffle(frames)
    needs, ends = needs_of(project, jobs), dict.fromkeys(left, 0.0)
    order = [int(number) for number in order_of(project, jobs, hours)]
    slots = _slots(project, faults)
    heap = [(slot.opens(since), number) for number, slot in enumerate(slots)]
    heap = [one for one in heap if one[0] < math.inf]
    heapq.heapify(heap)
    arrivals: list[Delivered] = []
    while heap and any(left.values()):
        now, number = heapq.heappop(heap)
        slot = slots[number]
        machine = project.machines[slot.machine]
        ready = [k for k in order if left[k] and all(not left[n] and ends[n] <= now for n in needs[k])]
        if not ready:
            later = [end for end in ends.values() if end > now]
            if later:
                heapq.heappush(heap, (min(later), number))
            continue
        job, frame = jobs[ready[0]], left[ready[0]].pop(0)
        ended, begun, seconds, tries = _rendered(project, truth, faults, slot, job, frame, now, random)
        if ended == math.inf:
            left[ready[0]].insert(0, frame)
            continue
        ends[ready[0]] = max(ends[ready[0]], ended)
        full = any(fault.kind == "full" and fault.at <= ended < fault.at + FULL_S for fault in faults)
        arrivals.append(
            Delivered(
                ended, begun, job.shot.name, frame, machine.name, number, seconds, tries, job.part == EARLY, full
            )
        )  # fmt: skip
        again = slot.opens(ended)
        if again < math.inf:
            heapq.heappush(heap, (again, number))
    return tuple(sorted(arrivals))


def _slots(project: Project, faults: Sequence[Fault]) -> list[_Slot]:
    found: list[_Slot] = []
    cuts = [(fault.at, fault.at + POWER_S) for fault in faults if fault.kind == "power"]
    for number, machine in enumerate(project.machines):
        spans = [(a * HOUR_S, b * HOUR_S) for a, b in spans_of(machine, project.delivery.timezone, project.start, DAYS)]
        dead = [fault.at for fault in faults if fault.kind == "dead" and fault.machine == machine.name]
        if dead:
            spans = [(a, min(b, *dead)) for a, b in spans if a < min(dead)]
        for begin, end in cuts:
            spans = [part for a, b in spans for part in ((a, min(b, begin)), (max(a, end), b)) if part[1] > part[0]]
        found += [_Slot(number, k, spans) for k in range(machine.count * machine.frames_at_once)]
    return found


def _rendered(
    project: Project,
    truth: Truth,
    faults: Sequence[Fault],
    slot: _Slot,
    job: Job,
    frame: int,
    now: float,
    random: np.random.Generator,
) -> tuple[float, float, float, int]:
    """Return when a frame is done, when its last try began, what that took, and how many there were."""
    machine = project.machines[slot.machine]
    each = truth.seconds[job.shot.name]
    cost = float(each[min(max(frame - job.shot.whole_range[0], 0), len(each) - 1)])
    if job.part == EARLY:
        cost *= job.settings.samples / max(job.shot.settings.samples, 1)
    cost /= machine.slot_speed() * float(truth.pace[slot.machine])
    power = [fault.at for fault in faults if fault.kind == "power"]
    time, tries = now, 0
    while True:
        tries += 1
        seconds = cost
        if any(fault.kind == "slow" and fault.machine == machine.name and time >= fault.at for fault in faults):
            seconds *= SLOW_FACTOR
        broken = random.random() < truth.loss[slot.machine]
        part = float(random.random()) if broken else 1.0
        begun = slot.opens(time)
        carries = not project.running.starts_again
        time = slot.spend(begun, project.running.dispatch_seconds + seconds * part, carries=carries)
        if time == math.inf:
            return math.inf, begun, seconds, tries
        if any(begun < cut < time for cut in power):  # what was under way is gone
            slot.window = 0
            time = slot.opens(next(cut for cut in power if begun < cut < time))
            continue
        if not broken:
            return time, begun, seconds, tries
