"""What shots cost and give as they stand: their numbers, steps, and the way from as asked to the plan. GUI thread.

Everything follows from what each shot could be in a few milliseconds.
"""

import operator
from typing import TYPE_CHECKING, Protocol

from pemlo.app.film_state import FilmState
from pemlo.core.project.shots import Shot

if TYPE_CHECKING:
    from pemlo.core.arrays import Floats
    from pemlo.core.film.film import Film
    from pemlo.core.trade.options import Numbers, Options
    from pemlo.core.trade.prices import LeverStep
    from pemlo.core.trade.savings import SavingStep
    from pemlo.core.trade.waterfall import ShotWaterfall, Waterfall


class KnowsOptions(Protocol):
    """Who knows what shots could be."""

    def options_of(self, shot: str) -> "Options | None":
        """Return the options of a shot; None while they are not known."""


# Values of so many shots are made while somebody waits; what more shots lack is asked for, and shown when it is there.
MOST_AT_ONCE = 12


class ShotMetrics:
    """Numbers of shots, from what is known of the film as it stands."""

    def __init__(self, state: FilmState, options: KnowsOptions) -> None:
        self._state, self._options = state, options

        self._film_fall: tuple[tuple[ShotWaterfall, ...], Waterfall | None] = (), None
        self._film_hours: tuple[tuple[ShotWaterfall, ...], Floats | None] = (), None
        # Once all are known of a film they are looked up no more: of a thousand shots that takes a while.
        self._falls: tuple[Film | None, tuple[ShotWaterfall, ...]] = None, ()
        self._numbers: tuple[Film | None, dict[str, Numbers]] = None, {}

    def _is_known(self, shot: str) -> bool:
        fitted_film = self._state.known
        return fitted_film is not None and shot in fitted_film.fit.shots

    def of(self, shot: Shot) -> "Numbers | None":
        """Return what a shot's settings cost and give; None while nothing is known. A few milliseconds at most."""
        if not self._is_known(shot.name):
            return None
        from pemlo.core.film.choices import NUMBERS  # noqa: PLC0415 - heavy to load

        return self._state.film.get(NUMBERS, self._state.film.as_known(shot))

    def of_all(self) -> "dict[str, Numbers]":
        """Return the numbers of every shot; while those of many are not known, of those of which they are."""
        if self._state.known is None:
            return {}
        from pemlo.core.film.choices import NUMBERS  # noqa: PLC0415 - heavy to load

        film = self._state.film
        if self._numbers[0] is film:
            return self._numbers[1]
        shots = film.project.shots
        inputs = [film.as_known(shot) for shot in shots]
        numbers = film.memo.peek_all(NUMBERS, inputs)
        if numbers.count(None) <= MOST_AT_ONCE:
            numbers = [now or self.of(shot) for shot, now in zip(shots, numbers, strict=True)]
        known = {shot.name: now for shot, now in zip(shots, numbers, strict=True) if now is not None}
        if len(known) == len(shots) and all(map(operator.is_, inputs, film.settings_inputs)):
            self._numbers = film, known
        return known

    def hours_of(self, shot: Shot) -> "Floats | None":
        """Return the machine-hours of a shot by all draws of the forecast, (N,); None while nothing is known.

        Options are compared by fewer draws: this is for a number that stands beside the forecast's own.
        """
        if not self._is_known(shot.name):
            return None
        from pemlo.core.film.choices import HOURS  # noqa: PLC0415 - heavy to load

        return self._state.film.get(HOURS, self._state.film.settings_input(shot))

    def held_options(self, shot: Shot) -> "Options | None":
        """Return the options of a shot that leave its pinned levers where they are; None while they are not known."""
        options = self._options.options_of(shot.name)
        if options is None or not shot.pins:
            return options
        from pemlo.core.film.choices import HELD  # noqa: PLC0415 - heavy to load
        from pemlo.core.film.inputs import HeldInput  # noqa: PLC0415 - as above

        return self._state.film.get(HELD, HeldInput(self._state.film.settings_input(shot), shot.pins))

    def steps_of(self, shot: Shot) -> "tuple[LeverStep, ...]":
        """Return one step of each lever of a shot from where it stands."""
        if self._options.options_of(shot.name) is None:
            return ()
        from pemlo.core.film.choices import STEPS  # noqa: PLC0415 - heavy to load

        return self._state.film.get(STEPS, self._state.film.settings_input(shot))

    def saving_steps_of(self, shot: Shot) -> "tuple[SavingStep, ...]":
        """Return the steps of each lever of a shot that would save most."""
        if self._options.options_of(shot.name) is None:
            return ()
        from pemlo.core.film.choices import SAVING_STEPS  # noqa: PLC0415 - heavy to load

        return self._state.film.get(SAVING_STEPS, self._state.film.settings_input(shot))

    def waterfalls(self) -> "tuple[ShotWaterfall, ...]":
        """Return the fall of every shot from as asked to its plan; none while those of many shots are not known."""
        if self._state.known is None:
            return ()
        from pemlo.core.film.choices import FALL  # noqa: PLC0415 - heavy to load

        film = self._state.film
        if self._falls[0] is not film:
            falls = film.memo.peek_all(FALL, film.settings_inputs)
            if falls.count(None) > MOST_AT_ONCE:
                return ()
            made = (fall or film.get(FALL, given) for fall, given in zip(falls, film.settings_inputs, strict=True))
            self._falls = film, tuple(made)
        return self._falls[1]

    def film_waterfall(self) -> "Waterfall":
        """Return the fall of the film, of the shots of which it is known."""
        falls = self.waterfalls()
        fall = self._film_fall[1]
        if fall is None or self._film_fall[0] is not falls:
            from pemlo.core.trade.waterfall import film_waterfall  # noqa: PLC0415 - heavy to load

            fall = film_waterfall(falls)
            self._film_fall = falls, fall
        return fall

    def film_hours(self) -> "Floats":
        """Return the machine-hours of the film as planned by all draws, (N,)."""
        falls = self.waterfalls()
        hours = self._film_hours[1]
        if hours is None or self._film_hours[0] is not falls:
            from pemlo.core.trade.waterfall import sum_of  # noqa: PLC0415 - heavy to load

            hours = sum_of(fall.hours[-1] for fall in falls)
            self._film_hours = falls, hours
        return hours
