"""Made-up renderers over the whole range of practice, and the few frames that people time of them with a stopwatch.

Preparing is none to nine tenths of the frame that is asked for, pictures are 64 px to 8K wide, frames take half a
second to ten hours. Half of the renderers follow no formula that Pemlo knows: samples that cost a little more or less
the more there are, textures that load as the picture grows, a step in memory. Nothing is drawn around the program's own
beliefs.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from pemlo.core.project.delivery import Delivery
from pemlo.core.project.project import Project
from pemlo.core.project.settings import FrameSettings, ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.trials import Trial
from synthetic import cost_profile

STOPWATCH_SD = 0.04
SLIPS = (0.4, 1.5)  # one slip, log of its factor either way
FORMS = ("as the formula", "samples", "textures", "memory")
NAME = "010"


@dataclass(frozen=True)
class Renderer:
    """A shot of a made-up renderer whose every frame's seconds are known.

    Attributes
    ----------
    shot : Shot
    size : (int, int)
        Width and height, px.
    prepare, pixel, sample, denoise, write : float
        Seconds; a Mpx; a Mpx and sample; a Mpx; a Mpx.
    power : float
        Of the samples.
    textures : float
        Seconds more of the full picture, while small ones load few of them.
    step, step_mpx : float
        By how much pictures over so many Mpx are dearer.
    noise : (4000,) ndarray
        Noise of one sample, place by place.
    along : (F,) ndarray
        Factor of every frame, mean 1.
    form : str
        Of `FORMS`.
    """

    shot: Shot
    size: tuple[int, int]
    prepare: float
    pixel: float
    sample: float
    denoise: float
    write: float
    power: float
    textures: float
    step: float
    step_mpx: float
    noise: np.ndarray
    along: np.ndarray
    form: str

    @property
    def asked(self) -> ShotSettings:
        return self.shot.asked

    @property
    def middle(self) -> int:
        return (self.shot.first + self.shot.last) // 2

    def seconds(self, frame: int, settings: FrameSettings) -> float:
        full = self.size[0] * self.size[1] / 1e6
        share = settings.resolution_percent / 100
        mpx = max(1, round(self.size[0] * share)) * max(1, round(self.size[1] * share)) / 1e6
        spent = self.spent(settings)
        work = mpx * (self.pixel + self.sample * spent**self.power)
        work *= self.step if mpx > self.step_mpx else 1.0
        filtered = 0.0 if settings.denoise == "none" else self.denoise * mpx
        loaded = self.textures * (1 - np.exp(-4 * mpx / full))
        seconds = self.prepare + loaded + work + filtered + self.write * mpx
        return float(self.along[frame - self.shot.first] * seconds)

    def spent(self, settings: FrameSettings) -> float:
        if settings.noise_threshold is None:
            return float(settings.samples)
        wanted = (self.noise / settings.noise_threshold) ** 2
        return float(np.clip(wanted, settings.least_samples, settings.samples).mean())

    def full_frame(self) -> float:
        """Return the seconds of the middle frame as asked."""
        return self.seconds(self.middle, self.asked)

    def mean_frame(self) -> float:
        """Return the seconds of the mean frame as asked."""
        return self.total() / self.shot.frame_count

    def total(self) -> float:
        return sum(self.seconds(frame, self.asked) for frame in range(self.shot.first, self.shot.last + 1))

    def project(self, trials: tuple[Trial, ...] = ()) -> Project:
        delivery = Delivery(deadline="2031-04-24T18:00Z", width=self.size[0], height=self.size[1])
        return Project(title="Made up", start="2031-04-21T10:00Z", delivery=delivery, shots=(self.shot,), trials=trials)


def log_uniform(random: np.random.Generator, low: float, high: float) -> float:
    return float(np.exp(random.uniform(np.log(low), np.log(high))))


def make_renderer(random: np.random.Generator, *, adaptive: bool) -> Renderer:
    width = 2 * round(log_uniform(random, 64, 7680) / 2)
    size = (width, 2 * round(width * 9 / 32))
    mpx = size[0] * size[1] / 1e6
    denoise = str(random.choice(["none", "frame"]))
    median = 0.05
    if adaptive:
        asked = ShotSettings(
            samples=int(random.choice([128, 256, 512, 1024, 2048])),
            min_samples=int(random.choice([4, 8, 16, 32])),
            noise_threshold=median / np.sqrt(log_uniform(random, 16, 256)),
            denoise=denoise,
        )
    else:
        asked = ShotSettings(samples=int(random.choice([64, 128, 256, 512, 1024])), denoise=denoise)
    frames = int(random.integers(40, 300))
    share = random.uniform(0, 0.02) if random.random() < 0.25 else random.uniform(0.02, 0.9)
    bright = random.random(4000) < random.uniform(0.1, 0.5)
    noise = median * np.exp(np.where(bright, random.normal(0.9, 0.9, 4000), random.normal(-0.5, 0.5, 4000)))
    form = FORMS[0] if random.random() < 0.5 else str(random.choice(FORMS[1:]))
    made = Renderer(
        shot=Shot(name=NAME, first=1, last=frames, asked=asked),
        size=size,
        prepare=0.0,
        pixel=log_uniform(random, 0.3, 20),
        sample=1.0,
        denoise=log_uniform(random, 2, 100),
        write=log_uniform(random, 0.1, 5),
        power=random.uniform(0.93, 1.07) if form == "samples" else 1.0,
        textures=0.0,
        step=random.uniform(1.05, 1.3) if form == "memory" else 1.0,
        step_mpx=mpx * random.uniform(0.1, 0.9),
        noise=noise,
        along=cost_profile(random, frames),
        form=form,
    )
    work = made.full_frame() / made.along[made.middle - 1]
    prepare = work * share / (1 - share)
    loads = prepare * random.uniform(0.2, 0.8) if form == "textures" else 0.0
    made = replace(made, prepare=prepare - loads, textures=loads / (1 - np.exp(-4)))
    factor = log_uniform(random, 0.5, 36_000) / made.full_frame()
    return replace(
        made,
        **{
            name: factor * getattr(made, name)
            for name in ("prepare", "pixel", "sample", "denoise", "write", "textures")
        },
    )


def make_film(random: np.random.Generator, shots: int = 10) -> tuple[Project, dict[str, Renderer]]:
    """Make a film of shots of one such renderer, each stage spread by factors of 2 to 3 about it."""
    first = make_renderer(random, adaptive=False)
    made = [_shot_of(first, f"{10 * (number + 1):03d}", random) for number in range(shots)]
    project = first.project().replace(shots=tuple(one.shot for one in made))
    return project, {one.shot.name: one for one in made}


def _shot_of(film: Renderer, name: str, random: np.random.Generator) -> Renderer:
    """Return another shot of the film's renderer: other settings, another course, each stage cheaper or dearer."""
    own = make_renderer(random, adaptive=bool(random.random() < 0.5))
    spread = {
        stage: getattr(film, stage) * float(np.exp(random.normal(0, np.log(2.2))))
        for stage in ("prepare", "textures", "pixel", "sample", "write")
    }
    return replace(
        film,
        shot=own.shot.replace(name=name),
        noise=own.noise,
        along=own.along,
        denoise=film.denoise * float(np.exp(random.normal(0, np.log(1.2)))),
        **spread,
    )


Tests = list[tuple[int, FrameSettings]]


def _at(renderer: Renderer, percent: float, samples: list[int]) -> Tests:
    """Return tests of the middle frame at a size with so many samples, denoised as asked."""
    return [
        (renderer.middle, FrameSettings(samples=n, resolution_percent=percent, denoise=renderer.asked.denoise))
        for n in samples
    ]


def _loosened(renderer: Renderer, percent: float, factors: list[float]) -> Tests:
    asked = FrameSettings.model_validate(renderer.asked.frame_fields())
    threshold = asked.noise_threshold or 1.0
    return [
        (renderer.middle, asked.replace(noise_threshold=threshold * factor, resolution_percent=percent))
        for factor in factors
    ]


def _cheaper(renderer: Renderer, percent: float) -> Tests:
    """Return tests from cheap to nearly clean, as people go up until they like what they see."""
    if renderer.asked.adaptive:
        return _loosened(renderer, percent, [8, 4, 2, 1])
    return _at(renderer, percent, [n for n in (16, 32, 64, 128, 256, 512) if n <= renderer.asked.samples / 2])


def _asked(renderer: Renderer, frames: list[int]) -> Tests:
    asked = FrameSettings.model_validate(renderer.asked.frame_fields())
    return [(frame, asked) for frame in frames]


@dataclass(frozen=True)
class Ladder:
    """Tests as people run them; `what` is asked: the full frame in the middle, or the shot."""

    name: str
    tests: Callable[[Renderer], Tests]
    fixed: bool = True
    adaptive: bool = True
    whole_shot: bool = False


LADDERS = (
    Ladder("half the size at 16, 32, 64, 128", lambda r: _at(r, 50, [16, 32, 64, 128]), adaptive=False),
    Ladder("full size at 8, 16, 32", lambda r: _at(r, 100, [8, 16, 32]), adaptive=False),
    Ladder("one full frame", lambda r: _asked(r, [r.middle])),
    Ladder("one cheap frame", lambda r: _cheaper(r, 50)[:1]),
    Ladder("a quarter of the size until clean, one full", lambda r: _cheaper(r, 25) + _asked(r, [r.middle])),
    Ladder(
        "two sizes at the same samples",
        lambda r: [test for percent in (50, 100) for test in _at(r, percent, [max(1, r.asked.samples // 4)])],
        adaptive=False,
    ),
    Ladder("a threshold until just clean, half the size", lambda r: _loosened(r, 50, [8, 4, 2, 1]), fixed=False),
    Ladder(
        "first, middle, last full frame", lambda r: _asked(r, [r.shot.first, r.middle, r.shot.last]), whole_shot=True
    ),
)


def time_tests(renderer: Renderer, tests: Tests, random: np.random.Generator, *, slip: bool) -> tuple[Trial, ...]:
    """Time tests with a stopwatch; one of them, drawn at random, may be grossly wrong."""
    wrong = int(random.integers(len(tests))) if slip else -1
    trials = []
    for number, (frame, settings) in enumerate(tests):
        error = STOPWATCH_SD * random.standard_normal()
        if number == wrong:
            error += random.choice([-1, 1]) * random.uniform(*SLIPS)
        seconds = float(f"{renderer.seconds(frame, settings) * np.exp(error):.3g}")
        trials.append(Trial(shot=NAME, frame=frame, seconds=seconds, **settings.frame_fields()))
    return tuple(trials)
