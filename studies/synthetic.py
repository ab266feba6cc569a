"""Made-up renderers whose truth is known: shots with a cost of their own, a stopwatch that errs, films of ten shots.

Nothing here uses the form in which Pemlo fits: noise over the frame is a mixture of two places and not log-normal, and
cost runs along a shot as a drift, a wave and a bump and not as a Gaussian process.
"""

from dataclasses import dataclass

import numpy as np

from pemlo.core.project.delivery import Delivery
from pemlo.core.project.project import Project
from pemlo.core.project.settings import FrameSettings, ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.trials import Trial

STOPWATCH_SD = 0.04
GROSS_SHARE = 0.01
SIZE = (1920, 1080)


@dataclass(frozen=True)
class TrueShot:
    """A shot whose every frame's seconds are known."""

    shot: Shot
    prepare: float
    light: float
    pixel: float
    sample: float
    power: float
    denoise: float
    noise: np.ndarray  # single-sample noise of 4 000 places
    along: np.ndarray  # factor of every frame, mean 1

    def seconds(self, frame: int, settings: FrameSettings) -> float:
        share = settings.resolution_percent / 100
        pixels = round(SIZE[0] * share) * round(SIZE[1] * share) / 1e6
        spent = float(settings.samples)
        if settings.noise_threshold is not None:
            wanted = (self.noise / settings.noise_threshold) ** 2
            spent = float(np.clip(wanted, settings.least_samples, settings.samples).mean())
        trace = pixels**self.power * (self.pixel + self.sample * spent)
        filtered = 0.0 if settings.denoise == "none" else self.denoise * pixels
        return float(self.along[frame - self.shot.first] * (self.prepare + self.light + trace + filtered))

    def total(self) -> float:
        return sum(self.seconds(frame, self.shot.settings) for frame in range(self.shot.first, self.shot.last + 1))

    def mean_frame(self) -> float:
        """Return the seconds of the mean frame as asked: the unit in which tests are paid."""
        return self.total() / self.shot.frame_count


def stopwatch(seconds: float, random: np.random.Generator) -> float:
    """Read a time as people do: within 4 %, and once in a hundred grossly wrong."""
    error = STOPWATCH_SD * random.standard_normal()
    if random.random() < GROSS_SHARE:
        error += random.choice([-1, 1]) * random.uniform(0.4, 1.5)
    return float(seconds * np.exp(error))


def make_film(random: np.random.Generator, shots: int = 10) -> tuple[Project, dict[str, TrueShot]]:
    """Make a film of shots with about the same renderer, spread by factors of 2 to 3."""
    level = np.exp(random.uniform(np.log(0.005), np.log(5.0)))
    share = {
        "prepare": np.exp(random.normal(np.log(42), 0.4)),
        "light": np.exp(random.normal(np.log(5), 0.4)),
        "pixel": np.exp(random.normal(np.log(5), 0.4)),
        "denoise": np.exp(random.normal(np.log(25), 0.4)),
    }
    true = [_make_shot(random, f"{10 * (number + 1):03d}", level, share) for number in range(shots)]
    project = Project(
        title="Made up",
        start="2031-04-21T10:00Z",
        delivery=Delivery(deadline="2031-04-24T18:00Z", width=SIZE[0], height=SIZE[1]),
        shots=tuple(one.shot for one in true),
    )
    return project, {one.shot.name: one for one in true}


def _make_shot(random: np.random.Generator, name: str, level: float, share: dict[str, float]) -> TrueShot:
    def spread(factor: float) -> float:
        return float(np.exp(random.normal(0, np.log(factor))))

    frames = int(random.integers(40, 300))
    median = 0.05 * spread(1.8)
    noise = median * np.exp(
        np.where(random.random(4000) < 0.35, random.normal(0.9, 0.9, 4000), random.normal(-0.5, 0.5, 4000))
    )
    if random.random() < 0.5:
        settings = ShotSettings(samples=int(random.choice([128, 256, 512])))
    else:
        settings = ShotSettings(
            samples=int(random.choice([256, 512, 1024])),
            min_samples=int(random.choice([8, 16, 32])),
            noise_threshold=float(random.choice([0.003, 0.006])),
            denoise=str(random.choice(["none", "frame"])),
        )
    return TrueShot(
        Shot(name=name, first=1, last=frames, asked=settings),
        level * share["prepare"] * spread(2.2),
        level * share["light"] * spread(2.2),
        level * share["pixel"] * spread(2.2),
        level * spread(2.2),
        float(random.normal(1.0, 0.015)),
        level * share["denoise"] * spread(1.2),
        noise,
        cost_profile(random, frames),
    )


def cost_profile(random: np.random.Generator, frames: int) -> np.ndarray:
    """Return how much more each frame of a shot costs than its mean one: a drift, a wave and a bump."""
    at = np.linspace(0, 1, frames)
    logs = random.uniform(-0.8, 0.8) * (at - 0.5)
    logs = logs + random.uniform(0, 0.3) * np.sin(2 * np.pi * (random.uniform(0.5, 2) * at + random.random()))
    logs += random.uniform(-0.35, 0.35) * np.exp(-0.5 * ((at - random.random()) / random.uniform(0.08, 0.25)) ** 2)
    factor = np.exp(logs)
    return factor / factor.mean()


def timed(true: TrueShot, frame: int, settings: FrameSettings, random: np.random.Generator) -> Trial:
    """Time one frame of a made-up renderer."""
    seconds = stopwatch(true.seconds(frame, settings), random)
    return Trial(shot=true.shot.name, frame=frame, seconds=seconds, **settings.frame_fields())
