"""What shots cost and give as they stand: their numbers, steps, and the way from as asked to the plan. GUI thread.

Everything follows from the planner's options in a few milliseconds, and is kept while a lever is dragged.
"""

from typing import TYPE_CHECKING, Protocol

from pemlo.app.worked_out import Same, WorkedOut
from pemlo.core.project.project import Project
from pemlo.core.project.shots import Shot

if TYPE_CHECKING:
    from pemlo.app.weighing import State
    from pemlo.app.worked_out import Key
    from pemlo.core.arrays import Floats
    from pemlo.core.predict.shot_appearance import ShotAppearance
    from pemlo.core.trade.options import Numbers, Options
    from pemlo.core.trade.prices import LeverStep
    from pemlo.core.trade.waterfall import ShotWaterfall

MOST_BYTES = 64 * 2**20  # of what was worked out for settings that a lever came by


class PlannerAnswers(Protocol):
    """What is asked of the planner."""

    @property
    def state(self) -> "State | None":
        """The film as it stands with what is known of it."""

    def options_of(self, shot: str) -> "Options | None":
        """Return the options of a shot."""

    def appearance_of(self, shot: str) -> "ShotAppearance | None":
        """Return how a shot looks."""

    def shapes(self, project: Project) -> "dict[str, Key]":
        """Return what the options of each shot depend on."""


class ShotNumbers:
    """Numbers of shots, from what a planner knows."""

    def __init__(self, planner: PlannerAnswers) -> None:
        self._planner, self._worked_out = planner, WorkedOut(MOST_BYTES)

    def forget(self) -> None:
        """Forget what was worked out: it was from another fit."""
        self._worked_out.clear()

    def of(self, shot: Shot) -> "Numbers | None":
        """Return what a shot's settings cost and give; None while nothing is known. A few milliseconds at most."""
        state = self._planner.state
        if state is None or shot.name not in state.known.fit.shots:
            return None
        from pemlo.core.trade.options import numbers_of  # noqa: PLC0415 - heavy to load

        appearance, known, project = self._planner.appearance_of(shot.name), state.known, state.project
        options = self._planner.options_of(shot.name)
        key = ("numbers", Same(appearance), Same(options), self._planner.shapes(project)[shot.name], shot.settings)
        return self._worked_out.once(
            key, lambda: numbers_of(project, known.fit, known.draws, shot, appearance, options)
        )

    def hours_of(self, shot: Shot) -> "Floats | None":
        """Return the machine-hours of a shot by all draws of the forecast, (N,); None while nothing is known.

        Options are compared by fewer draws: this is for a number that stands beside the forecast's own.
        """
        state = self._planner.state
        if state is None or shot.name not in state.known.fit.shots:
            return None
        from pemlo.core.forecast.needs import shot_hours  # noqa: PLC0415 - heavy to load

        known, project = state.known, state.project
        times = 1 + project.delivery.retake_share
        key = ("hours", self._planner.shapes(project)[shot.name], shot.settings)
        return self._worked_out.once(key, lambda: shot_hours(known.fit, known.draws, project, shot) * times)

    def standing(self, shot: Shot) -> "tuple[Options, int] | None":
        """Return the options of a shot with its present settings, and their place; None while they are not known."""
        options, now = self._planner.options_of(shot.name), self.of(shot)
        if options is None or now is None:
            return None
        if options.has(shot.settings):
            return options, options.place(shot.settings)
        from pemlo.core.trade.options import with_present  # noqa: PLC0415 - heavy to load

        key = ("standing", Same(options), shot.settings)
        return self._worked_out.once(key, lambda: with_present(options, shot, now))

    def held_options(self, shot: Shot) -> "Options | None":
        """Return the options of a shot that leave its pinned levers where they are; None while they are not known."""
        found = self.standing(shot) if shot.pins else None
        if found is None:
            return self._planner.options_of(shot.name)
        from pemlo.core.trade.options import holding  # noqa: PLC0415 - heavy to load

        options, _ = found
        held = tuple(getattr(shot.settings, lever) for lever in shot.pins)
        key = ("held", Same(self._planner.options_of(shot.name)), shot.pins, held)
        return self._worked_out.once(key, lambda: holding(options, shot))

    def steps_of(self, shot: Shot) -> "tuple[LeverStep, ...]":
        """Return one step of each lever of a shot from where it stands."""
        found = self.standing(shot)
        if found is None:
            return ()
        from pemlo.core.trade.prices import steps_from  # noqa: PLC0415 - heavy to load

        key = ("steps", Same(found[0]), found[1])
        return self._worked_out.once(key, lambda: steps_from(*found))

    def waterfalls(self) -> "tuple[ShotWaterfall, ...]":
        """Return the fall of every shot from as asked to its plan."""
        state = self._planner.state
        if state is None:
            return ()
        from pemlo.core.trade.waterfall import shot_waterfall  # noqa: PLC0415 - heavy to load

        project, known, found = state.project, state.known, []
        for shot in project.shots:
            options = self._planner.options_of(shot.name)
            key = ("fall", Same(options), self._planner.shapes(project)[shot.name], shot.settings)
            found.append(
                self._worked_out.once(key, lambda shot=shot, options=options: shot_waterfall(  # type: ignore[misc]
                    project, known.fit, known.draws, shot, options))
            )  # fmt: skip
        return tuple(found)
