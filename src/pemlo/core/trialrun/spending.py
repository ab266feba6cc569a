"""Spends time on trials: which frame is worth running next, and when nothing is worth it any more. Pure; seconds.

What is worth most is what takes most from the uncertainty of the film's hours for each minute that it costs; it is
asked anew after every frame, because each one changes what is known.
"""

from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from statistics import median
from typing import Literal

from pemlo.core.cost.next_trial import Advice, FrameKey, Limits, advise
from pemlo.core.film.film import Film
from pemlo.core.project.project import Project
from pemlo.core.project.render_ways import RenderWay
from pemlo.core.project.scenes import scene_of
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.trials import Trial
from pemlo.core.trialrun.small_renderer import small_renderer
from pemlo.core.trialrun.speeds import frame_to_share
from pemlo.core.trialrun.template import FrameTask, Region, as_reachable, fields_in

Order = Literal["telling", "shots"]
SETTLED = 0.99  # chance over which, or under one less it, the verdict will not change
TELLS_LITTLE = 0.1  # of a shot's uncertainty: a trial that takes less away is not worth its time
LEAST_TRIALS, TIMES_THE_WORK = 3, 4.0  # before a chance counts as settled (common practice, no source)
REPEAT_AFTER = 3  # trials, after which one is repeated where nobody has yet
MOST_FAILURES = 2  # of one shot, after which it is left alone
MOST_AGAIN = 2  # times that a trial which does not agree is run once more


@dataclass(frozen=True)
class Spent:
    """What a session has run so far.

    Attributes
    ----------
    tried : frozenset of (shot, frame, FrameSettings)
        Done, under way or skipped.
    landed : tuple of Trial
    failed : tuple of (shot, why)
    again : tuple of (shot, frame, FrameSettings)
        What was run once more because it did not agree.
    beside_s : tuple of float
        Seconds that each trial took beside its own: to find it, and to start and end the renderer.
    shared : frozenset of str
        Machines that rendered a frame of another, to learn how fast they are.
    """

    tried: frozenset[FrameKey] = frozenset()
    landed: tuple[Trial, ...] = ()
    failed: tuple[tuple[str, str], ...] = ()
    again: tuple[FrameKey, ...] = ()
    beside_s: tuple[float, ...] = ()
    shared: frozenset[str] = frozenset()

    @property
    def overhead_s(self) -> float:
        """What a trial takes beside its own time, the middle of those that were run."""
        return median(self.beside_s) if self.beside_s else 0.0

    def begun(self, choice: "Choice", machine: str = "") -> "Spent":
        """Return it with a frame that is under way on a machine."""
        key = choice.key
        again = (*self.again, key) if choice.why == "again" else self.again
        shared = self.shared | {machine} if choice.why == "machine" else self.shared
        return replace(self, tried=self.tried | {key}, again=again, shared=shared)

    def skipping(self, key: FrameKey) -> "Spent":
        """Return it with a frame that nobody wants."""
        return replace(self, tried=self.tried | {key})

    def with_landed(self, trial: Trial, whole_s: float) -> "Spent":
        """Return it with a trial more, which took so long in all."""
        beside = max(0.0, whole_s - trial.seconds)
        return replace(self, landed=(*self.landed, trial), beside_s=(*self.beside_s, beside))

    def with_failed(self, shot: str, why: str) -> "Spent":
        """Return it with a frame that was no trial."""
        return replace(self, failed=(*self.failed, (shot, why)))

    @property
    def left_alone(self) -> dict[str, str]:
        """Shots that failed too often, with what was wrong last."""
        counts = Counter(shot for shot, _ in self.failed)
        last = dict(self.failed)
        return {shot: last[shot] for shot, count in counts.items() if count >= MOST_FAILURES}


@dataclass(frozen=True)
class Choice:
    """A frame worth running.

    Attributes
    ----------
    shot, frame, settings
    seconds : float
        What it should take on the reference machine; infinite if nothing is known.
    why : str
        ``first``, ``telling``, ``repeat``, ``again``, ``machine`` or ``asked``.
    repeat : int
    """

    shot: str
    frame: int
    settings: FrameSettings
    seconds: float
    why: Literal["first", "telling", "repeat", "again", "machine", "asked"] = "asked"
    repeat: int = 0
    region: Region | None = None

    @property
    def key(self) -> FrameKey:
        """What tells it from others."""
        return self.shot, self.frame, self.settings


@dataclass(frozen=True)
class Ended:
    """Why nothing more is run.

    Attributes
    ----------
    why : str
        ``settled``, ``little``, ``time``, ``failed`` or ``nothing``.
    chance : float, optional
    failed : mapping of shot to str
    """

    why: Literal["settled", "little", "time", "failed", "nothing"]
    chance: float | None = None
    failed: Mapping[str, str] = field(default_factory=dict)


def way_named(project: Project, name: str) -> RenderWay | None:
    """Return a way of the project by its name, the first if none is named; of the small renderer by its own."""
    own = [way for way in project.render_ways if name in ("", way.name)]
    if own:
        return own[0]
    small = small_renderer()
    return small if name in ("", small.name) else None


def renderable(way: RenderWay, shot: Shot) -> bool:
    """Whether a way can render a shot: it has what the command needs of it."""
    named = fields_in(way)
    return ("scene" not in named or bool(scene_of(shot))) and ("camera" not in named or bool(shot.cameras))


def task_of(project: Project, choice: Choice, seed: int) -> FrameTask:
    """Return a choice as a frame to render."""
    shot = project.shot(choice.shot)
    return FrameTask(
        shot.name,
        choice.frame,
        project.size_of(shot),
        choice.settings,
        scene_of(shot),
        shot.cameras[0] if shot.cameras else "",
        choice.region,
        seed,
        choice.repeat,
    )


def reach_of(way: RenderWay) -> Callable[[Shot, FrameSettings], FrameSettings]:
    """Return what brings settings to the nearest that a way can render."""

    def reachable(shot: Shot, settings: FrameSettings) -> FrameSettings:
        return as_reachable(way, settings, FrameSettings.model_validate(shot.asked.frame_fields()))

    return reachable


@dataclass(frozen=True)
class Situation:
    """What decides which frame is run next.

    Attributes
    ----------
    film : Film
    way : RenderWay
    spent : Spent
    left_s : float
        Seconds that may still be spent; infinite for one frame whatever it takes.
    order : str
        ``telling`` for what decides the deadline, ``shots`` for one shot after another.
    shots : tuple of str
        Only these; all if empty.
    until_settled : bool
        Whether to end once nothing changes the verdict any more.
    machine : str
        Which will run it, where there are several.
    """

    film: Film
    way: RenderWay
    spent: Spent = Spent()
    left_s: float = float("inf")
    order: Order = "telling"
    shots: tuple[str, ...] = ()
    until_settled: bool = True
    machine: str = ""

    @property
    def names(self) -> list[str]:
        """Shots that may be run, in the order of the film."""
        return [
            shot.name
            for shot in self.film.project.shots
            if renderable(self.way, shot)
            and (not self.shots or shot.name in self.shots)
            and shot.name not in self.spent.left_alone
        ]


def next_choice(now: Situation) -> Choice | Ended:
    """Return the frame to run next, or why none is."""
    return decided(now, choices(now))


def decided(now: Situation, found: tuple[Choice, ...]) -> Choice | Ended:
    """Return the first of the frames worth running, as `choices` found them, or why none is run."""
    project = now.film.project
    wanted = [one for one in found if one.seconds <= now.left_s]
    if now.until_settled and project.counted_trials:
        chance = now.film.forecast.probability
        sure = chance is not None and not SETTLED >= chance >= 1 - SETTLED
        if sure and (scaling_measured(project) or not wanted):
            return Ended("settled", chance)
    if wanted:
        return wanted[0]
    if now.spent.left_alone:
        return Ended("failed", failed=now.spent.left_alone)
    if not any(renderable(now.way, shot) for shot in project.shots):
        return Ended("nothing")
    return Ended("time" if choices(replace(now, left_s=float("inf"))) else "little")


def scaling_measured(project: Project) -> bool:
    """Whether trials tell how time grows: a few, and one shot at settings of which one is some times the work.

    Of a single cheap frame a chance may look sure that rests on what is assumed alone: how much of it is preparing.
    """
    works: dict[str, list[float]] = {}
    for trial in project.counted_trials:
        if not trial.assumed and not trial.only_says_longer and trial.region_percent is None:
            samples = trial.mean_samples or (trial.least_samples * trial.samples) ** 0.5
            works.setdefault(trial.shot, []).append((trial.width or 1) * (trial.height or 1) * samples)
    count = sum(len(of_shot) for of_shot in works.values())
    return count >= LEAST_TRIALS and any(max(one) >= TIMES_THE_WORK * min(one) for one in works.values())


def choices(now: Situation) -> tuple[Choice, ...]:
    """Return the frames worth running as it stands now, the first first; at most one a shot."""
    film, project, spent, names = now.film, now.film.project, now.spent, now.names
    if not names:
        return ()
    if not film.fit.known:
        return tuple(first for name in names if (first := _first(now.way, project.shot(name), spent)) is not None)
    first = _shared(project, spent, names, now.machine) or _repeat(project, spent, names)
    limits = Limits(now.left_s, reach_of(now.way), spent.tried, spent.overhead_s)
    least = TELLS_LITTLE if now.until_settled else 0.0
    found = [advice for advice in advise(film.fit, project, names, None, limits) if _worth(advice, spent, least)]
    if now.order == "shots":
        found.sort(key=lambda advice: names.index(advice.shot))
    advised = [
        Choice(one.shot, one.frame, one.settings, one.seconds, "again" if one.again else "telling") for one in found
    ]
    return tuple([first, *advised] if first is not None else advised)


def _worth(advice: Advice, spent: Spent, least: float) -> bool:
    if advice.again:
        return spent.again.count((advice.shot, advice.frame, advice.settings)) < MOST_AGAIN
    return advice.hours_sd_after <= (1 - least) * advice.hours_sd


def _first(way: RenderWay, shot: Shot, spent: Spent) -> Choice | None:
    """Return a cheap frame to begin with: nothing says yet how long anything takes."""
    plan = FrameSettings.model_validate(shot.settings.frame_fields())
    cheap = plan.replace(
        resolution_percent=max(1.0, plan.resolution_percent / 4),
        samples=max(1, plan.least_samples if plan.adaptive else plan.samples // 16),
        min_samples=None,
        noise_threshold=None,
    )
    reach = reach_of(way)
    for settings in (reach(shot, FrameSettings.model_validate(cheap.frame_fields())), reach(shot, plan)):
        choice = Choice(shot.name, shot.middle, settings, 0.0, "first")
        if choice.key not in spent.tried:
            return choice
    return None


def _shared(project: Project, spent: Spent, names: list[str], machine: str) -> Choice | None:
    """Return a frame of another machine, where nothing says yet how fast this one is."""
    trial = None if machine in spent.shared else frame_to_share(project, machine)
    if trial is None or trial.shot not in names:
        return None
    settings = FrameSettings.model_validate(trial.frame_fields())
    return Choice(trial.shot, trial.frame, settings, trial.seconds, "machine", trial.repeat)


def _repeat(project: Project, spent: Spent, names: list[str]) -> Choice | None:
    """Return the cheapest trial of this session to be run again, where no two of the film say how times repeat."""
    timed = [trial for trial in spent.landed if not trial.left_out and not trial.only_says_longer]
    if len(timed) < REPEAT_AFTER or any(trial.repeat for trial in spent.landed):
        return None
    keys = [(one.shot, one.frame, one.machine, FrameSettings.model_validate(one.frame_fields()))
            for one in project.counted_trials]  # fmt: skip
    if len(set(keys)) < len(keys):
        return None
    cheap = min((one for one in timed if one.shot in names), key=lambda trial: trial.seconds, default=None)
    if cheap is None or cheap.region_percent is not None:
        return None
    settings = FrameSettings.model_validate(cheap.frame_fields())
    return Choice(cheap.shot, cheap.frame, settings, cheap.seconds, "repeat", cheap.repeat + 1)
