"""Makes the page of the picture sheet: one picture of every shot, then every trial of those that have more. Files."""

from datetime import datetime

from pemlo.core.errors import InputError
from pemlo.core.film.film import Film
from pemlo.core.progress import Monitor, PartOfWork, Unwatched
from pemlo.core.units import counted
from pemlo.handover.pages import pictures_page
from pemlo.handover.picture_sheet import MOST_PICTURES, one_of_each, sheet_pictures, variants_of


def picture_page(film: Film, written: datetime, monitor: Monitor | None = None) -> str:
    """Return the picture sheet as a page that holds all that it shows.

    Raises
    ------
    InputError
        If no trial has a picture.
    Cancelled
        From the monitor.
    """
    project, folder, watch = film.project, film.folder, monitor or Unwatched()
    every = {shot.name: variants_of(project, shot.name, folder) for shot in project.shots}
    if not any(every.values()):
        raise InputError("No trial has a picture.", "Render trials in Trials, or bring their pictures in.")
    groups = [("Every shot", one_of_each(project, folder))]
    groups += [(f"{name}: every trial", found) for name, found in every.items() if len(found) > 1]
    left, shown = MOST_PICTURES, []
    for number, (name, trials) in enumerate(groups):
        part = PartOfWork(watch, number / len(groups), (number + 1) / len(groups))
        shown.append((name, sheet_pictures(film, trials[:left], part)))
        left -= len(trials[:left])
    missing = sum(len(trials) for _, trials in groups) - sum(len(pictures) for _, pictures in shown)
    words = f"{counted(missing, 'picture')} more than fit on the sheet." if missing else ""
    return pictures_page(project, [one for one in shown if one[1]], written, words)
