"""What is known of one film, looked up in its memo: nothing is made here. GUI thread."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

from pemlo.core.project.project import Project

if TYPE_CHECKING:
    from pemlo.core.cost.draws import FilmDraws
    from pemlo.core.cost.fit_input import FitInput
    from pemlo.core.cost.next_trial import Advice
    from pemlo.core.cost.posterior import Fit
    from pemlo.core.film.film import Film
    from pemlo.core.film.memo import Memo
    from pemlo.core.forecast.finish import Finish
    from pemlo.core.forecast.verdict import Forecast
    from pemlo.core.project.shots import Shot

MOST_ADVISED = 100  # shots


@dataclass(frozen=True, eq=False)
class FittedFilm:
    """A film of which it is known what its shots cost."""

    film: "Film"
    fit: "Fit"
    draws: "FilmDraws"

    @property
    def project(self) -> Project:
        """The project of the film."""
        return self.film.project


@dataclass(frozen=True, eq=False)
class FilmForecast(FittedFilm):
    """A film with its forecast, the strongest that there is.

    Attributes
    ----------
    finish : Finish or None
        Once every frame of it was run; `not_run` says why it cannot be.
    first : bool
        Whether it is a first answer, from few draws, while the rest is worked out.
    """

    forecast: "Forecast"
    finish: "Finish | None" = None
    not_run: str = ""
    first: bool = False


@dataclass(frozen=True, eq=False)
class UpdatedFilm:
    """What stands for a fit to trials where frames of the film told more: the fit and the draws of what is left."""

    project: Project
    fit: "Fit"
    draws: "FilmDraws"

    @property
    def given(self) -> "FitInput":
        """What a fit to trials would be made from."""
        from pemlo.core.cost.fit_input import fit_input  # noqa: PLC0415 - heavy to load

        return fit_input(self.project)

    def put(self, memo: "Memo") -> None:
        """Put it in the place of a fit to trials."""
        from pemlo.core.cost.draws import drawn_shot  # noqa: PLC0415 - heavy to load
        from pemlo.core.film.inputs import DrawsInput  # noqa: PLC0415 - as above
        from pemlo.core.film.values import DRAWS, FIT  # noqa: PLC0415 - as above

        given = self.given
        memo.put(FIT, given, self.fit)
        for shot in self.project.shots:
            memo.put(DRAWS, DrawsInput(given, drawn_shot(shot)), self.draws[shot.name])


def fitted(film: "Film") -> FittedFilm | None:
    """Return what is known of the cost of a film; None before it was fitted. Only looks."""
    from pemlo.core.film import values  # noqa: PLC0415 - heavy to load, and the window comes up first

    run, fit = film.run_input, film.peek(values.FIT, film.fit_input)
    if fit is None:
        return None
    draws = film.memo.peek_all(values.DRAWS, map(run.draws_of, run.shots))
    drawn = {shot.name: drawn for shot, drawn in zip(run.shots, draws, strict=True) if drawn is not None}
    return FittedFilm(film, fit, drawn) if len(drawn) == len(draws) else None


def known_of(fitted_film: FittedFilm) -> FilmForecast | None:
    """Return what else is known of a film; None before there is a forecast of it. Only looks."""
    from pemlo.core.film import values  # noqa: PLC0415 - heavy to load, and the window comes up first

    film, run = fitted_film.film, fitted_film.film.run_input
    exact = film.peek(values.FORECAST, run)
    if exact is not None:
        trouble = film.memo.trouble(values.RUN, run)
        not_run = "" if trouble is None else trouble.message
        return FilmForecast(film, fitted_film.fit, fitted_film.draws, exact, film.peek(values.RUN, run), not_run)
    quick = film.peek(values.QUICK_FORECAST, run) or film.peek(values.FIRST_FORECAST, run)
    return None if quick is None else FilmForecast(film, fitted_film.fit, fitted_film.draws, quick)


def first_known(film: "Film") -> FilmForecast | None:
    """Return the first answer of a film whose fit takes long; None where there is none. Only looks."""
    from pemlo.core.film import values  # noqa: PLC0415 - heavy to load, and the window comes up first

    found = film.peek(values.FIRST_ANSWER, film.run_input)
    return None if found is None else FilmForecast(film, found.fit, found.draws, found.forecast, first=True)


def telling_shots(film: "Film", forecast: "Forecast") -> "list[Shot]":
    """Return the shots of which a trial can tell most of the film, those whose hours are least sure first.

    Of a thousand shots the others tell little: a hundred are weighed.
    """
    unsure = {one.shot: 0.0 if one.hours is None else one.hours.high - one.hours.low for one in forecast.shots}
    return sorted(film.project.shots, key=lambda shot: -unsure.get(shot.name, 0.0))[:MOST_ADVISED]


def advice_known(film: "Film", forecast: "Forecast") -> "tuple[Advice, ...]":
    """Return next trials of a film, the most telling first; none while they are not known of all that are weighed."""
    from pemlo.core.film import values  # noqa: PLC0415 - heavy to load

    found = [film.peek(values.ADVICE, film.advice_input(shot)) for shot in telling_shots(film, forecast)]
    if any(one is None for one in found):
        return ()
    return tuple(sorted((advice for one in found for advice in one or ()), key=lambda one: -one.variance_per_minute))
