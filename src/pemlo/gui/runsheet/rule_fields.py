"""The rules of the run, and what a shot has of its own in it, as fields that take what people type. Qt-free."""

from collections.abc import Callable
from datetime import datetime
from typing import Any

from pemlo.core.persistence.table import gibibytes, whole_number, yes_or_no
from pemlo.core.project.edits import set_running, set_shot
from pemlo.core.project.project import Project
from pemlo.core.project.running import FirstPass
from pemlo.core.units import parse_duration
from pemlo.gui.common.cells import read
from pemlo.gui.common.columns import Field
from pemlo.gui.common.moments import date_text, read_date

NONE = "none"
GOES_ON, STARTS_AGAIN = "it goes on in the next", "it starts again in the next"


def _local(project: Project, moment: datetime | None) -> str:
    return NONE if moment is None else date_text(project, moment)


def _moment(project: Project, text: str, what: str) -> datetime | None:
    if text.strip().lower() in ("", NONE):
        return None
    return read_date(project, text, what)


def _rule(name: str, parse: Callable[[str], Any], what: str) -> Callable[[Project, str], Project]:
    return lambda project, text: set_running(project, **{name: read(parse, text, what)})


def _seconds(text: str) -> float:
    return 0.0 if text.strip() in ("", "0", "0 s") else parse_duration(text)


def _without_none(parse: Callable[[str], Any]) -> Callable[[str], Any]:
    return lambda text: None if text.strip().lower() in ("", NONE) else parse(text)


def _closing(text: str) -> bool:
    """Read what becomes of a frame at the end of a machine's hours."""
    if text.strip() in (GOES_ON, STARTS_AGAIN):
        return text.strip() == STARTS_AGAIN
    raise ValueError(f"“{text}” is neither “{GOES_ON}” nor “{STARTS_AGAIN}”")


def _first_pass(project: Project, text: str) -> Project:
    name = text.strip()
    if name.lower() in ("", NONE):
        return set_running(project, first_pass=None)
    before = project.running.first_pass
    return set_running(project, first_pass=FirstPass(settings=name, due=before.due if before else None))


def _first_due(project: Project, text: str) -> Project:
    before, due = project.running.first_pass, _moment(project, text, "First pass due")
    return project if before is None else set_running(project, first_pass=before.replace(due=due))


def film_fields(project: Project) -> tuple[Field, ...]:
    """Return the rules of the run; `project` says which sets of settings a first pass could have."""
    return (
        Field("chunk", "Frames at a time", "How many frames of a shot a machine takes at a time",
              lambda p: str(p.running.chunk), _rule("chunk", whole_number, "Frames at a time")),
        Field("dispatch", "Handing out", "Time that goes by before each chunk: starting up, opening the scene",
              lambda p: f"{p.running.dispatch_seconds:g} s", _rule("dispatch_seconds", _seconds, "Handing out")),
        Field("closing", "A frame at the end of hours", "What becomes of it when its machine is no longer free",
              lambda p: STARTS_AGAIN if p.running.starts_again else GOES_ON,
              _rule("starts_again", _closing, "At the end of hours"), (GOES_ON, STARTS_AGAIN)),
        Field("disk", "Disk for frames", "Room for finished frames, such as 800 GiB; none if it cannot run short",
              lambda p: NONE if p.running.disk_gib is None else f"{p.running.disk_gib:g} GiB",
              _rule("disk_gib", _without_none(gibibytes), "Disk for frames")),
        Field("denoise on", "Denoising across frames on", "Machines that alone do it once frames and their neighbours "
              "are rendered, with commas between; none for all of them",
              lambda p: ", ".join(p.running.denoise_on) or NONE, _rule("denoise_on", _names, "Denoising on")),
        Field("first pass", "First pass", "Settings of a first pass over all shots that are not approved yet",
              lambda p: NONE if p.running.first_pass is None else p.running.first_pass.settings, _first_pass,
              (NONE, *(preset.name for preset in project.sets))),
        Field("first due", "First pass due", "Its own date, such as Tue 18:00; none if it has none",
              lambda p: NONE if p.running.first_pass is None else _local(p, p.running.first_pass.due), _first_due),
    )  # fmt: skip


def shot_fields(name: str) -> tuple[Field, ...]:
    """Return what a shot has of its own in the run."""

    def edit(field: str, parse: Callable[[str], Any], what: str) -> Callable[[Project, str], Project]:
        return lambda project, text: set_shot(project, name, **{field: read(parse, text, f"Shot {name}, {what}")})

    return (
        Field("due", "Due", "A date of its own, such as Wed 12:00; none if it is due with the film",
              lambda p: _local(p, p.shot(name).due),
              lambda p, text: set_shot(p, name, due=_moment(p, text, f"Shot {name}, due"))),
        Field("priority", "Priority", "Shots with a higher one are assigned first; 0 unless set",
              lambda p: str(p.shot(name).priority), edit("priority", whole_number, "priority")),
        Field("after", "Comes after", "Shots or looks that must be done first, with commas between; or none",
              lambda p: ", ".join(p.shot(name).after) or NONE, edit("after", _names, "comes after")),
        Field("only on", "Only on", "Machines that alone render it, with commas between; none for all of them",
              lambda p: ", ".join(p.shot(name).only_on) or NONE, edit("only_on", _names, "only on")),
        Field("approval", "First pass approved", "yes once its first pass was approved: only the final one is left",
              lambda p: "yes" if p.shot(name).approval == "approved" else "no",
              edit("approval", lambda text: "approved" if yes_or_no(text) else "waiting", "approved"), ("no", "yes")),
    )  # fmt: skip


def _names(text: str) -> tuple[str, ...]:
    names = (one.strip() for one in text.split(","))
    return tuple(name for name in names if name and name.lower() != NONE)
