"""The work that finds out what is not known of a film: a forecast at once, a run once hands rest, advice.

Lives on the GUI thread; the work runs in jobs, and what it makes is in the film's memo then.
"""

from collections.abc import Callable
from typing import TYPE_CHECKING, Protocol

from PySide6.QtCore import QObject, QTimer

from pemlo.app.film_known import fitted, telling_shots
from pemlo.app.jobs import Jobs
from pemlo.core.progress import Monitor

if TYPE_CHECKING:
    from pemlo.app.film_known import FilmForecast
    from pemlo.core.film.film import Film

FORECAST = "forecast"
RUN = "run"
ADVICE = "advice"
REST_MS = 250  # a hand that drags is not held up by the run of what it only passes
MANY_SHOTS = 40  # from which on to ask what is known of a film takes so long that a hand which drags would feel it
SOON_MS = 60


class KnowsFilm(Protocol):
    """Who knows the film as it stands, and tells what is known of it."""

    answer: "FilmForecast | None"

    @property
    def film(self) -> "Film":
        """The film as it stands."""

    def hold(self) -> None:
        """Let what is made of it stay, from some time on."""

    def look_up(self) -> bool:
        """Look up what is known of it; whether there is a forecast."""

    def tell(self) -> None:
        """Say that something is new."""


class FilmWork:
    """Asks for what a state wants.

    Parameters
    ----------
    state : KnowsFilm
    jobs : Jobs
    timers : QObject
        That its timer goes with.
    on_first : callable
        Told, on any thread, once a first answer is there of a film whose fit takes long.
    advises : bool
        Whether it is worked out which trial to run next.
    """

    def __init__(
        self, state: KnowsFilm, jobs: Jobs, timers: QObject, on_first: Callable[[], None], *, advises: bool
    ) -> None:
        self._state, self._jobs, self._on_first, self._advises = state, jobs, on_first, advises
        self._runs = False  # before the first run what runs is not loaded, or not even compiled
        self._rest = QTimer(timers)
        self._rest.setSingleShot(True)
        self._rest.setInterval(REST_MS)
        self._rest.timeout.connect(self._on_rest)
        self._soon = QTimer(timers)
        self._soon.setSingleShot(True)
        self._soon.setInterval(SOON_MS)
        self._soon.timeout.connect(self.ask)

    @property
    def waits(self) -> bool:
        """Whether work begins once hands rest."""
        return self._rest.isActive() or self._soon.isActive()

    def ask_soon(self) -> None:
        """Ask once a hand has stopped for a moment; what runs for the film as it was is stopped now."""
        self._jobs.cancel(RUN)
        self._rest.stop()
        self._soon.start()

    def ask(self) -> None:
        """Ask for what is not known of the film as it stands."""
        state = self._state
        self._jobs.cancel(RUN)
        self._rest.stop()
        self._soon.stop()
        if state.look_up():
            self._jobs.cancel(FORECAST)
            self._go_on()
            return
        from pemlo.core.film import values  # noqa: PLC0415 - heavy to load

        self._jobs.cancel(ADVICE)
        film, runs = state.film, self._runs
        film.memo.hold(self, [value.key(film.run_input) for value in values.OF_RUN])

        def work(monitor: Monitor) -> None:
            # What the last state of the film holds is almost the same, until rest; but fits and draws are large.
            if fitted(film) is None:
                film.hold(state, looks=False)
            _forecast(film, monitor, self._on_first, runs=runs)

        self._jobs.submit(
            FORECAST,
            "Forecasting",
            work,
            lambda _: self._on_forecast(),
            waited_for=True,
            again=self.ask,
        )
        state.tell()

    def _on_forecast(self) -> None:
        if self._state.look_up():
            self._go_on()

    def _go_on(self) -> None:
        """Ask for what a forecast leaves open: a run of every frame, and which trial to run next."""
        self._rest.start()
        if self._advises:
            self._ask_advice()
        self._state.tell()

    def _on_rest(self) -> None:
        """Hold what is known, and run every frame if that was not done."""
        from pemlo.core.film import values  # noqa: PLC0415 - heavy to load

        self._state.hold()
        film, answer = self._state.film, self._state.answer
        assert answer is not None
        if film.peek(values.FORECAST, film.run_input) is None and values.can_be_run(answer.forecast):
            self._run()

    def _run(self) -> None:
        """Run every frame of the film as it stands."""
        film = self._state.film

        def work(monitor: Monitor) -> None:
            from pemlo.core.film import values  # noqa: PLC0415 - heavy to load

            film.get(values.FORECAST, film.run_input, monitor)

        self._jobs.submit(RUN, "Running every frame", work, lambda _: self._on_run(), again=self._run)

    def _on_run(self) -> None:
        if self._state.look_up() and self._state.answer is not None:
            self._runs = self._runs or self._state.answer.finish is not None
            self._state.tell()

    def _ask_advice(self) -> None:
        from pemlo.core.film import values  # noqa: PLC0415 - heavy to load

        film, answer = self._state.film, self._state.answer
        assert answer is not None
        inputs = [film.advice_input(shot) for shot in telling_shots(film, answer.forecast)]
        if all(film.memo.has(values.ADVICE.key(advice_input)) for advice_input in inputs):
            self._jobs.cancel(ADVICE)
            return

        def work(monitor: Monitor) -> None:
            for number, advice_input in enumerate(inputs):
                monitor.step(number / len(inputs), "Weighing which trial tells most")
                film.get(values.ADVICE, advice_input, monitor)

        text = "Weighing which trial tells most"
        self._jobs.submit(ADVICE, text, work, lambda _: self._state.tell(), again=self._ask_advice)


def _forecast(film: "Film", monitor: Monitor, on_first: Callable[[], None], *, runs: bool) -> None:
    from pemlo.core.film import values  # noqa: PLC0415 - heavy to load, and the window comes up first
    from pemlo.core.film.memo import Maker  # noqa: PLC0415 - as above

    if values.is_large(film.fit_input) and film.peek(values.FIT, film.fit_input) is None:
        film.get(values.FIRST_ANSWER, film.run_input, monitor)
        on_first()
    # What is shown is made of all three: any of them may have given way while the others stayed.
    values.known_of(film.run_input, Maker(film.memo, monitor))
    film.get(values.QUICK_FORECAST if runs else values.FIRST_FORECAST, film.run_input, monitor)
    film.memo.forget(values.FIRST_ANSWER.key(film.run_input))  # large, and shown no more
