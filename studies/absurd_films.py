"""Films that a document may hold and nobody would make: the least and the most of everything, in any mixture."""

import random
from typing import Any

from pemlo.core.project.delivery import Delivery
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project
from pemlo.core.project.record import build
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.trials import Trial

FAR = 10_000_000


def make(dice: random.Random) -> Project:
    """Make a film.

    Raises
    ------
    InputError
        If what was drawn is not allowed.
    """
    shots = tuple(_shot(dice, str(number)) for number in range(dice.randint(1, 3)))
    trials = tuple(_trial(dice, dice.choice(shots)) for _ in range(dice.randint(0, 6)))
    return build(
        Project,
        {
            "title": "x",
            "start": dice.choice(["1990-01-01T00:00Z", "2031-01-01T00:00Z"]),
            "delivery": _delivery(dice),
            "shots": shots,
            "trials": trials,
            "machines": tuple(_machine(dice, name) for name in ("m", "n")[: dice.randint(0, 2)]),
        },
        "",
    )


def _delivery(dice: random.Random) -> Delivery:
    return build(
        Delivery,
        {
            "deadline": dice.choice(["2200-01-01T00:00Z", "2031-01-01T00:01Z", "2031-03-01T00:00Z"]),
            "assembly_minutes": dice.choice([0, 60 * 24 * 365]),
            "retake_share": dice.choice([0, 10]),
            "confidence": dice.choice([0.5, 0.999]),
            "width": dice.choice([1, 1920, 65536]),
            "height": dice.choice([1, 1080, 65536]),
        },
        "",
    )


def _machine(dice: random.Random, name: str) -> Machine:
    fields = {
        "name": name,
        "speed": dice.choice([1, 1e-6, 1e6, 1e-3]),
        "count": dice.choice([0, 1, 100_000]),
        "loss_percent": dice.choice([0, 50, 99]),
        "contention": dice.choice([0, 0.2, 1]),
    }
    return build(Machine, fields, "")


def _shot(dice: random.Random, name: str) -> Shot:
    most = dice.choice([1, 2, 16, 256, 1_000_000, dice.randint(1, 1_000_000)])
    asked: dict[str, Any] = {
        "samples": most,
        "resolution_percent": dice.choice([100, 1, 0.1, 50, 400, 1000]),
        "denoise": dice.choice(["none", "frame", "x", "frame 99 99"]),
        "most_seconds": dice.choice([None, None, 1e-6, 1, 1e9]),
        "keep": dice.choice([(), ("prepare", "light")]),
        "switches": dice.choice([(), ("motion blur",)]),
        "saves": dice.choice([0, 1, 100]),
        "frame_step": dice.choice([1, 2, 10]),
    }
    if dice.random() < 0.5:
        asked |= {
            "noise_threshold": dice.choice([1e-9, 1e-3, 0.01, 1, 1e6, 1e-300]),
            "min_samples": dice.choice([None, 1, most]),
        }
    first = dice.choice([1, -FAR, 0, FAR - 1000])
    fields = {
        "name": name,
        "first": first,
        "last": min(FAR, first + dice.choice([0, 1, 99, FAR])),
        "step": dice.choice([1, 1000, 7]),
        "asked": build(ShotSettings, asked, ""),
    }
    return build(Shot, fields, "")


def _trial(dice: random.Random, shot: Shot) -> Trial:
    fields: dict[str, Any] = shot.asked.frame_fields()
    if dice.random() < 0.6:
        fields |= {"samples": dice.choice([1, 16, 1_000_000]), "noise_threshold": None, "min_samples": None}
    seconds = dice.choice([1e-9, 1e-300, 1, 60, 1e10, 1e5, dice.uniform(1, 100)])
    fields |= {"shot": shot.name, "frame": dice.choice([shot.first, shot.last, 0, FAR, -FAR]), "seconds": seconds}
    odd: dict[str, list[Any]] = {
        "mean_samples": [1e-300, 1e-9, 1, fields["samples"]],
        "noise": [0, 1e-300, 1, 1e6],
        "noise_shape": [(0.0,), (-700.0, 700.0), (1e308, -1e308), tuple(map(float, range(16)))],
        "prepare_seconds": [0, 1e-300, seconds, 1e10],
        "trace_seconds": [None, seconds],
        "region_percent": [1e-300, 1e-6, 50, 100],
        "memory_gib": [1e6],
        "disk_mib": [1e9],
        "machine": ["m", "n", "elsewhere"],
    }
    return build(
        Trial, {**fields, **{name: dice.choice(some) for name, some in odd.items() if dice.random() < 0.3}}, ""
    )
