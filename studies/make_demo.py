"""Make the demo project: an invented film, its machines, and trials of made-up renderers, timed with errors.

.venv/bin/python studies/make_demo.py     writes src/pemlo/demo/tide_clock.pemlo
"""

from pathlib import Path

import numpy as np

from pemlo.core.persistence.document import write_project
from pemlo.core.plan.delivery import Delivery, local_moment
from pemlo.core.plan.machines import Machine
from pemlo.core.plan.project import Project
from pemlo.core.plan.settings import FrameSettings, ShotSettings
from pemlo.core.plan.shots import Shot
from pemlo.core.plan.trials import Trial
from synthetic import TrueShot, stopwatch

ZONE = "Europe/Lisbon"
TARGET = Path(__file__).parents[1] / "src/pemlo/demo/tide_clock.pemlo"

# name, frames, scene, most samples, least, threshold, denoise, moves,
# then the truth: prepare, light, per Mpx, per Mpx and sample, single-sample noise, course along the shot
SHOTS = (
    ("010", 144, "harbour at night", 256, None, None, "none", "camera", 9, 3, 1.2, 0.13, 0.03, (0.1, -0.1)),
    ("020", 96, "up the observatory", 256, None, None, "none", "camera", 16, 5, 1.6, 0.20, 0.05, (-0.2, 0.1)),
    ("030", 72, "lamp on the stairs", 512, 16, 0.01, "none", "camera lights", 14, 6, 1.5, 0.30, 0.09, (0.3, 0.0)),
    ("040", 168, "the brass clock", 384, None, None, "frame", "camera", 24, 9, 2.4, 0.24, 0.05, (0.0, 0.25)),
    ("050", 60, "pendulum, close", 512, 16, 0.008, "frame", "objects", 12, 4, 1.9, 0.33, 0.08, (0.05, 0.15)),
    ("060", 132, "wheels turning", 384, None, None, "frame", "objects", 28, 8, 2.2, 0.26, 0.05, (0.2, 0.2)),
    ("070", 120, "lamp through glass", 768, 24, 0.006, "none", "camera lights", 15, 11, 2.6, 0.38, 0.10, (0.25, 0.3)),
    ("080", 156, "tide in the tube", 512, 16, 0.01, "frame", "camera simulation", 33, 9, 2.1, 0.31, 0.08, (-0.3, 0.1)),
    ("090", 84, "dust and lens", 384, None, None, "none", "camera materials", 18, 5, 1.7, 0.22, 0.06, (0.1, 0.1)),
    ("100", 172, "the hour strikes", 512, 16, 0.01, "frame", "camera objects", 30, 10, 2.5, 0.34, 0.09, (0.4, -0.1)),
)
SLOWNESS = 9.0  # how much slower the invented film is than the times above
MACHINES = (
    Machine(name="desk", count=6, memory_gib=64, hours="Mon-Fri 19:00-08:00, Sat-Sun all day", loss_percent=1),
    Machine(name="blade", count=1, speed=1.6, frames_at_once=2, memory_gib=256, price_per_hour=2.4),
    Machine(name="old tower", count=1, speed=0.6, memory_gib=32, loss_percent=3),
)


def make() -> Project:
    random = np.random.default_rng(1931)
    truths = [_true_shot(row, random) for row in SHOTS]
    trials = [trial for true in truths for trial in _trials(true, random)]
    return Project(
        title="The Tide Clock",
        start=local_moment("2031-04-21T10:00", ZONE),
        delivery=Delivery(
            width=1920,
            height=1080,
            timezone=ZONE,
            deadline=local_moment("2031-04-24T18:00", ZONE),
            assembly_minutes=90,
            retake_share=0.04,
        ),
        shots=tuple(true.shot for true in truths),
        machines=MACHINES,
        trials=tuple(trials),
    )


def _true_shot(row: tuple, random: np.random.Generator) -> TrueShot:
    name, frames, scene, most, least, threshold, denoise, moves, prepare, light, pixel, sample, noise, course = row
    at = np.linspace(0, 1, frames)
    along = np.exp(course[0] * (at - 0.5) + course[1] * np.exp(-0.5 * ((at - 0.6) / 0.2) ** 2))
    settings = ShotSettings(samples=most, min_samples=least, noise_threshold=threshold, denoise=denoise)
    shot = Shot(
        name=name, first=1, last=frames, asked=settings, moves=tuple(moves.split()), extra_columns=(("scene", scene),)
    )
    places = noise * np.exp(np.where(random.random(4000) < 0.3, 0.8, -0.4) + 0.6 * random.standard_normal(4000))
    times = (SLOWNESS * value for value in (prepare, light, pixel, sample))
    return TrueShot(shot, *times, 1.01, SLOWNESS * 7.5, places, along / along.mean())


def _trials(true: TrueShot, random: np.random.Generator) -> list[Trial]:
    """Time what somebody would have timed so far: the film's heavy shot well, some a little, two not at all."""
    shot, asked = true.shot, true.shot.asked
    last, middle = shot.last, (shot.first + shot.last) // 2
    plan = FrameSettings.model_validate(asked.frame_fields())
    fixed = plan.changed(noise_threshold=None, min_samples=None, denoise="none")
    low = fixed.changed(samples=16, resolution_percent=50)
    wanted: list[tuple[int, FrameSettings, str]] = {
        "040": [(middle, plan, "blade"), (1, low, "desk"), (middle, low, "desk"), (last, low, "desk")],
        "050": [(middle, plan.changed(noise_threshold=0.04), "desk")],
        "070": [
            *((41, fixed.changed(samples=n, resolution_percent=p), "desk")
              for n, p in ((8, 50), (16, 50), (32, 100), (64, 100), (128, 50))),
            (41, plan.changed(noise_threshold=0.024), "desk"),
            (1, low, "desk"),
            (80, low, "desk"),
        ],
        "080": [(middle, plan.changed(resolution_percent=50), "desk"), (40, low, "desk"), (130, low, "old tower")],
        "090": [],
        "020": [],
    }.get(shot.name, [(middle, plan, "desk"), (1, low, "desk"), (last, low, "desk")])  # fmt: skip
    return [_time(true, frame, settings, machine, random) for frame, settings, machine in wanted]


def _time(true: TrueShot, frame: int, settings: FrameSettings, machine: str, random: np.random.Generator) -> Trial:
    speed = next(one.speed for one in MACHINES if one.name == machine)
    seconds = stopwatch(true.seconds(frame, settings), random) / speed
    rounded = round(seconds, 1) if seconds < 60 else float(round(seconds))
    return Trial(shot=true.shot.name, frame=frame, seconds=rounded, machine=machine, **settings.frame_fields())


if __name__ == "__main__":
    write_project(make(), TARGET)
