"""The whole document, and what holds between its parts. Imports its neighbours only."""

from collections import Counter
from datetime import UTC, datetime, timedelta
from graphlib import CycleError, TopologicalSorter
from typing import Annotated, Self

from pydantic import AfterValidator, Field, field_validator, model_validator

from pemlo.core.project.delivery import Delivery, checked_moment
from pemlo.core.project.edited import EditedFilm
from pemlo.core.project.kept_plans import KeptCard, KeptPlan
from pemlo.core.project.launch import LaunchRow, OwnCheck, PictureNeeds
from pemlo.core.project.lookup import counted, shots_by_name, trials_by_shot
from pemlo.core.project.machines import Machine
from pemlo.core.project.named_settings import NamedSettings
from pemlo.core.project.names import one_line
from pemlo.core.project.record import Record
from pemlo.core.project.render_ways import MOST_WAYS_TO_RENDER, RenderWay
from pemlo.core.project.running import Running
from pemlo.core.project.settings import NO_DENOISE, WAY, CostFactors, FrameSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.timed_sizes import with_timed_sizes
from pemlo.core.project.trials import Trial
from pemlo.core.project.watching import Watching
from pemlo.core.project.ways import way_costs
from pemlo.core.units import HOUR_S

MOST_SHOTS = 5000
LATEST_H = 24 * 366 * 50.0  # an end later than fifty years is none
MOST_TRIALS = 20_000
MOST_DENOISERS = 12
MOST_WAYS = 24
MOST_PLANS = 50
MOST_CARDS = 100
MOST_SETS = 50


class Project(Record):
    """Everything that is saved. `start` is when rendering can begin; the forecast counts from it.

    Where the film `starts_now`, the start goes on with the clock until frames are watched (`start.py`).
    """

    title: Annotated[str, Field(min_length=1, max_length=200), AfterValidator(one_line)]
    start: datetime
    starts_now: bool = False
    delivery: Delivery
    shots: tuple[Shot, ...] = Field(default=(), max_length=MOST_SHOTS)
    machines: tuple[Machine, ...] = Field(default=(), max_length=1000)
    trials: tuple[Trial, ...] = Field(default=(), max_length=MOST_TRIALS)
    plans: tuple[KeptPlan, ...] = Field(default=(), max_length=MOST_PLANS)
    cards: tuple[KeptCard, ...] = Field(default=(), max_length=MOST_CARDS)
    sets: tuple[NamedSettings, ...] = Field(default=(), max_length=MOST_SETS)
    running: Running = Running()
    watching: Watching = Watching()
    needs: PictureNeeds = PictureNeeds()
    launch: tuple[LaunchRow, ...] = Field(default=(), max_length=MOST_SHOTS)
    own_checks: tuple[OwnCheck, ...] = Field(default=(), max_length=MOST_SETS)
    edited: EditedFilm = EditedFilm()
    render_ways: tuple[RenderWay, ...] = Field(default=(), max_length=MOST_WAYS_TO_RENDER)

    @field_validator("start")
    @classmethod
    def _with_zone(cls, moment: datetime) -> datetime:
        return checked_moment(moment)

    @model_validator(mode="after")
    def _fits_together(self) -> Self:
        if self.delivery.deadline <= self.start:
            raise ValueError("the deadline is not after the start")
        _refuse_repeats("shot", [shot.name for shot in self.shots])
        _refuse_repeats("machine", [machine.name for machine in self.machines])
        _refuse_repeats("plan", [plan.name for plan in self.plans])
        _refuse_repeats("set of settings", [preset.name for preset in self.sets])
        _refuse_repeats("way to render", [render_way.name for render_way in self.render_ways])
        self._refuse_rings()
        first = self.running.first_pass
        if first is not None and all(first.settings != preset.name for preset in self.sets):
            raise ValueError(f"the first pass is to have the settings “{first.settings}”, and no set is called so")
        names = {shot.name for shot in self.shots}
        strays = sorted({trial.shot for trial in self.trials} - names)
        if strays:
            raise ValueError(f"trials name shots that the brief does not have: {', '.join(strays[:5])}")
        sizes = {shot.name: self.size_of(shot) for shot in self.shots}
        # The record is frozen for all but its own check: what a percentage means has just been settled.
        self.__dict__["trials"] = with_timed_sizes(self.trials, sizes)
        cost_factors = self.cost_factors()
        if len(cost_factors.denoisers) > MOST_DENOISERS:
            raise ValueError(f"there are more than {MOST_DENOISERS} ways of denoising; name equal ones the same")
        if len(cost_factors.switches) > MOST_DENOISERS:
            raise ValueError(f"there are more than {MOST_DENOISERS} switches and splits; name equal ones the same")
        if len(cost_factors.ways) > MOST_WAYS:
            raise ValueError(f"there are more than {MOST_WAYS} ways of rendering; name equal ones the same")
        return self

    def _refuse_rings(self) -> None:
        """Refuse shots that wait for what is not there, or for themselves."""
        for shot in self.shots:
            unknown = [name for name in shot.after if not any(one.goes_by(name) for one in self.shots)]
            if unknown:
                raise ValueError(f"shot {shot.name} comes after “{unknown[0]}”, which is neither a shot nor a look")
        try:
            TopologicalSorter({shot.name: self.comes_after(shot) for shot in self.shots if shot.after}).prepare()
        except CycleError as error:
            raise ValueError(f"these shots wait for each other: {', '.join(sorted(set(error.args[1])))}") from error

    def moment(self, hours: float) -> datetime:
        """Return the moment so many hours after the start, in the zone of the film."""
        return (self.start.astimezone(UTC) + timedelta(hours=hours)).astimezone(self.delivery.zone)

    def end(self, hours: float) -> datetime | None:
        """Return the moment of an end so many hours after the start; None where it never comes."""
        return self.moment(hours) if hours <= LATEST_H else None

    def hours_of(self, moment: datetime) -> float:
        """Return how many hours after the start a moment is."""
        return (moment.astimezone(UTC) - self.start.astimezone(UTC)).total_seconds() / HOUR_S

    @property
    def deadline_h(self) -> float:
        """The deadline, hours after the start."""
        return self.hours_of(self.delivery.deadline)

    @property
    def render_by_h(self) -> float:
        """When the last frame must be rendered, so that assembly ends by the deadline; hours after the start."""
        return self.hours_of(self.delivery.render_by)

    def comes_after(self, shot: Shot) -> set[str]:
        """Return the names of the shots that must be done before a shot begins."""
        return {one.name for one in self.shots for name in shot.after if one.goes_by(name)}

    def shot(self, name: str) -> Shot:
        """Return the shot of that name.

        Raises
        ------
        KeyError
            If there is none.
        """
        return shots_by_name(self.shots)[name]

    def size_of(self, shot: Shot) -> tuple[int, int]:
        """Width and height of the shot's frames at 100 %, px."""
        if shot.width is None or shot.height is None:
            return self.delivery.width, self.delivery.height
        return shot.width, shot.height

    def rate_of(self, shot: Shot) -> float:
        """Frames a second of the shot."""
        return shot.fps or self.delivery.fps

    def screen_seconds(self, shot: Shot) -> float:
        """How long the shot is on screen, s."""
        return shot.frame_count / self.rate_of(shot)

    def layer_counts(self) -> tuple[int, ...]:
        """For each shot, how many layers are combined into the same shot of the film, itself among them."""
        counts = Counter(shot.film_name for shot in self.shots)
        return tuple(counts[shot.film_name] for shot in self.shots)

    @property
    def on_screen(self) -> tuple[Shot, ...]:
        """Shots of the film, each once: of a shot in layers the first of them."""
        first: dict[str, Shot] = {}
        for shot in self.shots:
            first.setdefault(shot.film_name, shot)
        return tuple(first.values())

    def trials_of(self, name: str) -> tuple[Trial, ...]:
        """Return the trials of a shot, in their order; none for a name that no shot has."""
        return tuple(trials_by_shot(self.trials).get(name, ()))

    @property
    def counted_trials(self) -> tuple[Trial, ...]:
        """Trials on which forecasts rest: all but those that are left out."""
        return counted(self.trials)

    def cost_factors(self) -> CostFactors:
        """Every way of denoising and every switch that a shot, a trial or a kept plan names, by their names."""
        # An edit of any shot asks: settings are gone through as they are, for to compare a thousand takes longer.
        used: list[FrameSettings] = [shot.asked for shot in self.shots]
        used += [shot.plan for shot in self.shots if shot.plan is not None]
        used += [shot.settings for plan in self.plans for shot in plan.shots]
        used += [preset.settings for preset in self.sets]
        denoisers = {one.denoise for one in used} | {trial.denoise for trial in self.trials}
        switches = {name for one in (*used, *self.trials) for name in one.switched if not name.startswith(WAY)}
        ways = way_costs({(one.way, one.way_value) for one in used}, self.trials)
        return CostFactors(tuple(sorted(denoisers - {NO_DENOISE})), tuple(sorted(switches)), ways)


def _refuse_repeats(kind: str, names: list[str]) -> None:
    seen: set[str] = set()
    repeated = sorted({name for name in names if name in seen or seen.add(name)})  # type: ignore[func-returns-value]
    if repeated:
        raise ValueError(f"{kind} {repeated[0]} appears twice; give each its own name")
