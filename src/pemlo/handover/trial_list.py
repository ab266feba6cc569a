"""A list of trials to take along, for paper and for the phone: frames with their settings, boxes for times. Text."""

from collections.abc import Sequence
from dataclasses import dataclass

from pemlo.core import palette
from pemlo.core.errors import InputError
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.spelling import settings_words
from pemlo.core.units import format_duration, parse_duration
from pemlo.handover.pages import page_templates


@dataclass(frozen=True)
class ListedTrial:
    """A trial to be timed by hand, and what it should take, s; 0 where that is not known."""

    shot: str
    frame: int
    settings: FrameSettings
    seconds: float = 0.0


@dataclass(frozen=True)
class ReadBack:
    """Times that were read back: by the place in the list; and lines that were not used, with why."""

    seconds: dict[int, float]
    unused: tuple[str, ...]


def trial_list_page(title: str, trials: Sequence[ListedTrial]) -> str:
    """Return the list as a page that holds all that it shows."""
    from markupsafe import Markup  # noqa: PLC0415 - with the templates

    rows = [
        {
            "shot": one.shot,
            "frame": one.frame,
            "settings": settings_words(one.settings),
            "about": format_duration(one.seconds) if one.seconds else "",
        }
        for one in trials
    ]
    style = page_templates().get_template("paper.css").render(ink=palette.DAY, surround=palette.SURROUND)
    return (
        page_templates()
        .get_template("trials.html")
        .render(
            style=Markup(style),  # noqa: S704 - our own file
            title=title,
            rows=rows,
        )
    )


def read_back(text: str, trials: Sequence[ListedTrial]) -> ReadBack:
    """Read lines of shot, frame and time, with tabs or commas between; or of times alone, in the order of the list.

    Examples
    --------
    >>> from pemlo.core.project.settings import FrameSettings
    >>> one, two = (ListedTrial("010", frame, FrameSettings(samples=8)) for frame in (5, 9))
    >>> read_back("010,9,4:02", [one, two]).seconds, read_back("31 s", [one, two]).seconds
    ({1: 242.0}, {0: 31.0})
    """
    found: dict[int, float] = {}
    unused = []
    for line in text.splitlines():
        parts = [part.strip() for part in line.replace(",", "\t").split("\t") if part.strip()]
        if not parts:
            continue
        place, why = _place_of(parts, trials, found)
        try:
            seconds = parse_duration(parts[-1])
        except InputError:
            why = why or f"“{parts[-1][:40]}” is no time"
        if why or place is None:
            unused.append(f"{line.strip()[:80]}: {why}")
        else:
            found[place] = seconds
    return ReadBack(found, tuple(unused))


def _place_of(parts: list[str], trials: Sequence[ListedTrial], found: dict[int, float]) -> tuple[int | None, str]:
    if len(parts) == 1:
        place = next((number for number in range(len(trials)) if number not in found), None)
        return place, "" if place is not None else "there are more times than frames"
    wanted = (parts[0], parts[1]) if len(parts) > 2 else (None, parts[0])
    for number, one in enumerate(trials):
        if str(one.frame) == wanted[1].lstrip("0") and wanted[0] in (None, one.shot) and number not in found:
            return number, ""
    return None, "no frame of the list"
