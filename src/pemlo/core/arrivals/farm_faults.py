"""What goes wrong on the small farm: ordered in words, or drawn by chance from a seed. Pure."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np

from pemlo.core.errors import InputError, Problem
from pemlo.core.project.project import Project
from pemlo.core.units import HOUR_S, parse_duration

Kind = Literal["lost", "truncated", "size", "black", "slow", "dead", "power", "full", "clock", "order"]
KINDS: tuple[Kind, ...] = get_args(Kind)
OF_FRAMES: tuple[Kind, ...] = ("lost", "truncated", "size", "black")
OF_MACHINES: tuple[Kind, ...] = ("slow", "dead", "clock")
SLOW_FACTOR, CLOCK_OFF_S, POWER_S, FULL_S = 3.0, HOUR_S, 2 * HOUR_S, HOUR_S
CHANCE = "chance"
_HINT = (
    "Write them like lost:070/12, slow:blade@10h, dead:blade@20h, power@20h, full@30h, clock:desk, order, or chance."
)


@dataclass(frozen=True)
class Fault:
    """Something that goes wrong.

    Attributes
    ----------
    kind : str
        Of frames: ``lost`` (nothing is written), ``truncated``, ``size``, ``black``. Of machines: ``slow``, ``dead``,
        ``clock`` (its files are an hour off). Of all: ``power``, ``full`` (of the disk), ``order`` (of frames).
    shot, frame
        Of what frame.
    machine : str
    at : float
        From when on, seconds since the start.
    """

    kind: Kind
    shot: str = ""
    frame: int = 0
    machine: str = ""
    at: float = 0.0


def faults_of(text: str, project: Project, seed: int = 0) -> tuple[Fault, ...]:
    """Read faults as they are ordered.

    Parameters
    ----------
    text : str
        With commas between: ``lost:070/12``, ``slow:blade@10h``, ``power@20h``, ``order``; ``chance`` for some of all.
    project : Project
    seed : int
        Of chance.

    Raises
    ------
    InputError
        With all that cannot be read.
    """
    faults: list[Fault] = []
    problems = []
    for part in (one.strip() for one in text.split(",")):
        if not part:
            continue
        if part == CHANCE:
            faults += chance_faults(project, seed)
            continue
        try:
            faults.append(_read(part, project))
        except (ValueError, InputError) as error:
            problems.append(Problem(f"“{part}”", str(error)))
    if problems:
        raise InputError(problems, _HINT)
    return tuple(faults)


def _read(part: str, project: Project) -> Fault:
    match = re.fullmatch(r"(\w+)(?::([^@]+))?(?:@(.+))?", part)
    if match is None or match[1] not in KINDS:
        raise ValueError(f"is no fault; there are {', '.join(KINDS)}")
    kind: Kind = match[1]
    of, at = (match[2] or "").strip(), parse_duration(match[3]) if match[3] else 0.0
    if kind in OF_FRAMES:
        shot, _, frame = of.rpartition("/")
        if all(one.name != shot for one in project.shots) or not re.fullmatch(r"-?\d+", frame):
            raise ValueError("names no frame of a shot, such as 070/12")
        return Fault(kind, shot, int(frame))
    if kind in OF_MACHINES:
        if all(machine.name != of for machine in project.machines):
            raise ValueError(f"names no machine; there are {', '.join(machine.name for machine in project.machines)}")
        return Fault(kind, machine=of, at=at)
    return Fault(kind, at=at)


def chance_faults(project: Project, seed: int) -> tuple[Fault, ...]:
    """Draw some faults: one of each kind of frame for every two shots or so, and one machine that is slow or dead."""
    random = np.random.default_rng([seed, 23])
    faults: list[Fault] = []
    for shot in project.shots:
        faults += [
            Fault(kind, shot.name, int(random.integers(shot.first, shot.last + 1)))
            for kind in OF_FRAMES
            if random.random() < 1 / 4
        ]
    if len(project.machines) > 1:
        machine = str(random.choice([one.name for one in project.machines]))
        kind = OF_MACHINES[int(random.integers(2))]
        faults.append(Fault(kind, machine=machine, at=float(random.uniform(5, 40)) * HOUR_S))
    return tuple(faults)


def of_frame(faults: Sequence[Fault], shot: str, frame: int) -> Kind | None:
    """Return what goes wrong with a frame; None if nothing does."""
    return next(
        (fault.kind for fault in faults if fault.kind in OF_FRAMES and (fault.shot, fault.frame) == (shot, frame)), None
    )
