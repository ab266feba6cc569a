"""All that can be handed over, each into files of a folder. Files; seconds."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from pemlo.core.arrivals.live_forecast import LiveForecast
from pemlo.core.errors import InputError
from pemlo.core.files.safe_paths import inside
from pemlo.core.film.film import Film
from pemlo.core.film.values import can_be_run
from pemlo.core.forecast.finish import Finish
from pemlo.core.persistence.calendar_file import calendar_text, hours_table
from pemlo.core.persistence.csv_launch import write_launch
from pemlo.core.persistence.csv_machines import write_machines
from pemlo.core.persistence.csv_shots import write_shots
from pemlo.core.persistence.csv_trials import write_trials
from pemlo.core.persistence.table import write_rows
from pemlo.core.persistence.whole_files import write_whole_bytes
from pemlo.core.preflight.check_context import plan_rows
from pemlo.core.preflight.finding import Finding
from pemlo.core.progress import Monitor, PartOfWork, Unwatched
from pemlo.core.project.project import Project
from pemlo.handover.case_facts import case_facts
from pemlo.handover.command_lines import Piece, command_line, whole_shots
from pemlo.handover.pages import case_page, sheet_page
from pemlo.handover.paper import pdf_of
from pemlo.handover.picture_page import picture_page
from pemlo.handover.pieces import pieces_of
from pemlo.handover.settings_sheet import settings_sheet
from pemlo.handover.sheet_files import sheet_csv, sheet_json


@dataclass(frozen=True)
class HandedFilm:
    """What is handed over.

    Attributes
    ----------
    film : Film
    written : datetime
    template : str
        Of command lines; empty for none.
    findings : tuple of Finding
        What the checks found.
    live_forecast : LiveForecast, optional
        What frames that are in tell.
    """

    film: Film
    written: datetime
    template: str = ""
    findings: tuple[Finding, ...] = ()
    live_forecast: LiveForecast | None = None

    @property
    def project(self) -> Project:
        """The project."""
        return self.film.project

    @property
    def pieces(self) -> tuple[Piece, ...]:
        """Ranges by machine where the run is known, else whole shots."""
        try:
            return pieces_of(self.project, _run_of(self))
        except InputError:
            return whole_shots(self.project)

    @property
    def commands(self) -> tuple[str, ...]:
        """Command lines; none without a template.

        Raises
        ------
        InputError
            If it cannot be filled in.
        """
        if not self.template.strip():
            return ()
        return tuple(command_line(self.template, self.project, piece) for piece in self.pieces)


@dataclass(frozen=True)
class Output:
    """Something that can be handed over.

    Attributes
    ----------
    key : str
        Its file, such as ``case.pdf``.
    name : str
        What people call it.
    make : callable
        Returns what is in the file.
    """

    key: str
    name: str
    make: Callable[[HandedFilm, Monitor], bytes]


def _text(write: Callable[[HandedFilm], str]) -> Callable[[HandedFilm, Monitor], bytes]:
    return lambda film, _: write(film).encode("utf-8", "backslashreplace")


def _case(film: HandedFilm, watch: Monitor) -> str:
    return case_page(case_facts(film.film, film.written, watch, film.live_forecast))


def _sheet(film: HandedFilm, _watch: Monitor) -> str:
    return sheet_page(film.project, settings_sheet(film.project, film.pieces), film.written, film.commands)


def _commands(film: HandedFilm) -> str:
    if not film.template.strip():
        raise InputError("There is no template of command lines.", "Write one, such as render {shot} -s {first}.")
    return "\n".join(film.commands) + "\n"


def _run_of(film: HandedFilm) -> Finish:
    if not can_be_run(film.film.forecast) or not len((finish := film.film.run).run.trace):
        raise InputError("The run of the film is not known.", "Time a frame of it, and give it machines.")
    return finish


def _calendar(film: HandedFilm) -> str:
    return calendar_text(film.project, _run_of(film), film.written)


def _hours(film: HandedFilm) -> str:
    return hours_table(film.project, _run_of(film))


def _launch(film: HandedFilm) -> str:
    project = film.project
    return write_launch(project.launch or tuple(row for shot in project.shots for row in plan_rows(project, shot)))


def _checks(film: HandedFilm) -> str:
    rows = [[finding.outcome, finding.check, finding.shot, finding.words, finding.todo] for finding in film.findings]
    return write_rows(["outcome", "check", "shot", "words", "to do"], rows)


OUTPUTS: tuple[Output, ...] = (
    Output("settings.pdf", "Settings sheet", lambda f, w: pdf_of(_sheet(f, w))),
    Output("settings.html", "Settings sheet", lambda f, w: _sheet(f, w).encode()),
    Output("settings.csv", "Settings sheet", _text(lambda f: sheet_csv(settings_sheet(f.project, f.pieces)))),
    Output("settings.json", "Settings sheet", _text(lambda f: sheet_json(settings_sheet(f.project, f.pieces)))),
    Output("commands.txt", "Command lines", _text(_commands)),
    Output("case.pdf", "The case", lambda f, w: pdf_of(_case(f, w))),
    Output("case.html", "The case", lambda f, w: _case(f, w).encode()),
    Output("pictures.pdf", "Picture sheet", lambda f, w: pdf_of(picture_page(f.film, f.written, w))),
    Output("pictures.html", "Picture sheet", lambda f, w: picture_page(f.film, f.written, w).encode()),
    Output("run.ics", "Run sheet", _text(_calendar)),
    Output("hours.csv", "Run sheet", _text(_hours)),
    Output("launch.csv", "Launch table", _text(_launch)),
    Output("checks.csv", "Checks", _text(_checks)),
    Output("shots.csv", "Shots", _text(lambda f: write_shots(f.project))),
    Output("trials.csv", "Trials", _text(lambda f: write_trials(f.project))),
    Output("machines.csv", "Machines", _text(lambda f: write_machines(f.project))),
)
BY_KEY: Mapping[str, Output] = {output.key: output for output in OUTPUTS}
USUAL = ("settings.pdf", "case.html", "run.ics", "launch.csv")


def write_outputs(
    keys: Sequence[str], film: HandedFilm, folder: Path, monitor: Monitor | None = None
) -> tuple[tuple[Path, ...], tuple[str, ...]]:
    """Write several into a folder; one that cannot be made leaves the others.

    Parameters
    ----------
    keys : sequence of str
        Of `OUTPUTS`.
    film : HandedFilm
    folder : path
    monitor : Monitor, optional

    Returns
    -------
    tuple of path, tuple of str
        What was written; and why the others were not.

    Raises
    ------
    FileError
        If the folder cannot be written.
    Cancelled
        From the monitor.
    """
    watch = monitor or Unwatched()
    written, left = [], []
    for number, key in enumerate(keys):
        watch.step(number / len(keys), f"Writing {key}")
        try:
            data = BY_KEY[key].make(film, PartOfWork(watch, number / len(keys), (number + 1) / len(keys)))
        except InputError as error:
            left.append(f"{key}: {error}")
            continue
        path = inside(folder, key)
        write_whole_bytes(data, path)
        written.append(path)
    return tuple(written), tuple(left)
