"""A way to render as the texts of its page, and back. Qt-free."""

from collections.abc import Mapping
from typing import Any

from pemlo.core.errors import InputError, Problem
from pemlo.core.project.record import build
from pemlo.core.project.render_ways import RenderWay
from pemlo.core.trialrun.output_text import marked_line, read_marked_line
from pemlo.core.trialrun.sayings import read_sayings, sayings_text
from pemlo.core.trialrun.template import check_way
from pemlo.core.units import format_duration, parse_duration

# Fields of the page: name, label, tip, how many lines it shows (0 for one line that is a field).
FIELDS = (
    ("folder", "Folder", "Where the command runs; empty for beside the project", 0),
    (
        "picture",
        "Picture",
        "Where it lands: an ending such as .png, or {out}.{frame:04}.exr; empty for {out} as EXR",
        0,
    ),
    ("said", "Said as", "How a value is said, a line each: denoise frame = --clean 1", 3),
    ("output", "Output tells", "A line that it writes, what is what marked: done in [seconds:12.3 s]", 2),
    ("header", "Header tells", "Attributes of the picture's header, a line each: seconds = render/time", 1),
    ("environment", "Variables", "Added to your own, a line each: NAME=value", 1),
    ("machines", "Machines", "Those of the brief that it runs on, with the words before it: blade = reach blade", 2),
    ("untouched", "Never touched", "Folders below which nothing may be written, a line each", 1),
    ("at_once", "At once", "Frames side by side on a machine", 0),
    ("limit", "Time limit", "A frame is ended after so long, like 10:00; empty for none", 0),
)
EXAMPLES = {
    "folder": "beside the project", "picture": ".png", "said": "denoise frame = --clean 1\nthreshold none =",
    "output": "done in [seconds:12.3 s]", "header": "seconds = render/time", "environment": "SCENES=/film/scenes",
    "machines": "blade = reach blade", "untouched": "/film/final", "limit": "none",
}  # fmt: skip
MARKS = ("seconds", "frame", "mean_samples", "memory", "prepare_seconds", "trace_seconds", "denoise_seconds")


def texts_of(way: RenderWay) -> dict[str, str]:
    """Return what the page says of a way."""
    return {
        "name": way.name,
        "command": way.command,
        "folder": way.folder,
        "picture": way.picture,
        "said": sayings_text(way.sayings),
        "output": "\n".join(map(marked_line, way.output)),
        "header": "\n".join(f"{name} = {attribute}" for name, attribute in way.header_names),
        "environment": "\n".join(f"{name}={value}" for name, value in way.environment),
        "machines": "\n".join(f"{one.machine} = {one.prefix}" for one in way.machines),
        "untouched": "\n".join(way.untouched),
        "at_once": str(way.at_once),
        "limit": "" if way.time_limit_s is None else format_duration(way.time_limit_s),
    }


def empty_texts(name: str = "main") -> dict[str, str]:
    """Return what the page says of a way that is to be made."""
    return {"name": name, "command": "", "at_once": "1", **{field: "" for field, *_ in FIELDS if field != "at_once"}}


def way_of(texts: Mapping[str, str], *, shell: bool, first_left_out: bool) -> RenderWay:
    """Return the way that the page says.

    Raises
    ------
    InputError
        That says which field is wrong.
    """
    fields: dict[str, Any] = {
        "name": texts["name"],
        "command": texts["command"],
        "folder": texts["folder"],
        "picture": texts["picture"],
        "sayings": read_sayings(texts["said"]),
        "output": tuple(read_marked_line(line) for line in _lines(texts["output"])),
        "header_names": _pairs(texts["header"], "Header tells"),
        "environment": _pairs(texts["environment"], "Variables"),
        "machines": tuple(
            {"machine": name, "prefix": prefix} for name, prefix in _pairs(texts["machines"], "Machines", alone=True)
        ),
        "untouched": tuple(_lines(texts["untouched"])),
        "at_once": _whole(texts["at_once"] or "1"),
        "time_limit_s": parse_duration(texts["limit"]) if texts["limit"].strip() else None,
        "shell": shell,
        "first_left_out": first_left_out,
    }
    if not texts["command"].strip():
        raise InputError("There is no command yet.", "Paste one that rendered a frame.")
    way = build(RenderWay, fields, "Way", {"name": "name", "command": "command"})
    check_way(way)
    return way


def _lines(text: str) -> list[str]:
    return [line.strip() for line in text.splitlines() if line.strip()]


def _pairs(text: str, where: str, *, alone: bool = False) -> tuple[tuple[str, str], ...]:
    found = []
    for line in _lines(text):
        name, equals, value = line.partition("=")
        if not equals and not alone:
            raise InputError([Problem(where, f"“{line[:60]}” is not like NAME = VALUE")])
        found.append((name.strip(), value.strip()))
    return tuple(found)


def _whole(text: str) -> int:
    if not text.strip().isdecimal() or len(text.strip()) > 4:
        raise InputError([Problem("At once", f"“{text[:20]}” is not a whole number")])
    return int(text)


def marked(text: str, begin: int, end: int, field: str) -> str:
    """Return a text in which a part is marked as a field of the output.

    Examples
    --------
    >>> marked("done in 12.3 s", 8, 14, "seconds")
    'done in [seconds:12.3 s]'
    """
    return f"{text[:begin]}[{field}:{text[begin:end]}]{text[end:]}"


def with_field(text: str, begin: int, end: int, field: str) -> str:
    """Return a command in which a part has become a field.

    Examples
    --------
    >>> with_field("draw -f 0012 -s 64", 8, 12, "frame")
    'draw -f {frame:04} -s 64'
    """
    word = text[begin:end]
    digits = f":{len(word):02d}" if field == "frame" and word.startswith("0") and len(word) > 1 else ""
    return f"{text[:begin]}{{{field}{digits}}}{text[end:]}"
