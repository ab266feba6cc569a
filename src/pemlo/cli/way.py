"""``pemlo way``: keeps a way to render in a project: the command that renders one frame, with fields in braces."""

import argparse
import json
from pathlib import Path
from typing import Any

from pemlo.core.errors import InputError, Problem
from pemlo.core.persistence.document import read_project, write_project
from pemlo.core.project.project import Project
from pemlo.core.project.record import build
from pemlo.core.project.render_ways import FIELDS, RenderWay
from pemlo.core.trialrun import allowed
from pemlo.core.trialrun.learned import learned
from pemlo.core.trialrun.output_text import marked_line, read_marked_line
from pemlo.core.trialrun.sayings import read_saying, sayings_text
from pemlo.core.trialrun.template import check_way, unreachable
from pemlo.core.units import format_duration, parse_duration
from pemlo.words.trial_runs import not_reachable_words

_DESCRIPTION = f"""Keeps how one frame is rendered, and allows it on this computer. Fields of the command:
{", ".join("{" + name + "}" for name in FIELDS)}. Without any option it shows the way."""
_PAIR = "NAME=VALUE"


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Say what the command takes."""
    parser.description = _DESCRIPTION
    parser.add_argument("project", type=Path)
    parser.add_argument("name", help="of the way; options change one that the project has")
    parser.add_argument(
        "--command", dest="template", metavar="COMMAND", help="what renders one frame, with fields in braces"
    )
    parser.add_argument(
        "--learn", metavar="COMMAND", help="one that rendered a frame: its numbers become fields where they are known"
    )
    parser.add_argument("--folder", help="where it runs (default: beside the project)")
    parser.add_argument(
        "--picture", metavar="PATTERN", help="where the picture lands: an ending such as .png, or {out}.{frame:04}.exr"
    )
    parser.add_argument(
        "--say", action="append", default=[], metavar="LINE",
        help="how a value is said: “denoise frame = --clean 1”, “threshold none =”; may be given again",
    )  # fmt: skip
    parser.add_argument(
        "--env", action="append", default=[], metavar=_PAIR, help="a variable for it; may be given again"
    )
    parser.add_argument(
        "--output", action="append", default=[], metavar="LINE",
        help="a line that it writes, with marks: “done in [seconds:12.3 s]”; may be given again",
    )  # fmt: skip
    parser.add_argument(
        "--header", action="append", default=[], metavar="FIELD=ATTRIBUTE",
        help="what an attribute of the picture's header tells; may be given again",
    )  # fmt: skip
    parser.add_argument("--at-once", type=int, help="frames side by side on a machine")
    parser.add_argument("--limit", help="end a frame after so long: 10:00, 90 s; none for no limit")
    parser.add_argument(
        "--untouched", action="append", default=[], metavar="FOLDER", help="nothing may be written below it"
    )
    parser.add_argument(
        "--machine", action="append", default=[], metavar="NAME=PREFIX",
        help="a machine of the brief, and the words before the command that have it run there",
    )  # fmt: skip
    parser.add_argument(
        "--first-left-out", action=argparse.BooleanOptionalAction, default=None,
        help="leave out the first frame on each machine",
    )  # fmt: skip
    parser.add_argument("--shell", action=argparse.BooleanOptionalAction, default=None, help="run it in a shell")
    parser.add_argument("--mine", action="store_true", help="keep it for other projects, too; or take it from there")
    parser.add_argument("--allow", action="store_true", help="allow a way that came with the project on this computer")
    parser.add_argument("--remove", action="store_true", help="take it out of the project")
    parser.add_argument("--json", action="store_true", help="write JSON")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    """Keep, show or remove a way."""
    project, base = read_project(args.project), args.project.absolute().parent
    before = next((way for way in project.render_ways if way.name == args.name), None)
    if args.remove:
        if before is None:
            raise InputError([Problem(args.name, "is no way of this project")], _names(project))
        write_project(_with(project, args.name, None), args.project)
        return 0
    changes, said = _changes(args, project)
    if before is None and args.mine and "command" not in changes:
        before = next((way for way in allowed.own_ways() if way.name == args.name), None)
        changes = {**(dict(before) if before else {}), **changes}
    if not changes and not args.allow and not args.mine:
        if before is None:
            raise InputError([Problem(args.name, "is no way of this project")], _names(project))
        print(json.dumps(as_json(before, base), indent=1) if args.json else as_text(before, base))
        return 0
    if before is None and "command" not in changes:
        raise InputError([Problem("--command", "is missing")], "Write what renders one frame, with fields in braces.")
    way = build(RenderWay, {**(dict(before) if before else {}), **changes, "name": args.name}, f"Way {args.name}")
    try:
        check_way(way)
    except InputError:
        if said:
            print(*said, f"So far: {way.command}", "Correct it, and give it with --command.", sep="\n")
        raise
    if changes:
        write_project(_with(project, args.name, way), args.project)
    allowed.allow(way, base)
    if args.mine:
        allowed.keep_way(way)
    if args.json:
        print(json.dumps(as_json(way, base), indent=1))
    else:
        print(*said, as_text(way, base), sep="\n")
    return 0


def _names(project: Project) -> str:
    names = ", ".join(way.name for way in project.render_ways)
    return f"There are: {names}." if names else "There are none: make one with --command."


def _with(project: Project, name: str, way: RenderWay | None) -> Project:
    """Return the project with a way in place of the one of its name, or without it."""
    ways = list(project.render_ways)
    place = next((number for number, one in enumerate(ways) if one.name == name), len(ways))
    ways[place : place + 1] = [] if way is None else [way]
    return project.replace(render_ways=tuple(ways))


def _changes(args: argparse.Namespace, project: Project) -> tuple[dict[str, Any], list[str]]:
    """Return the fields that the options change, and what was learned."""
    changes: dict[str, Any] = {}
    said = []
    if args.template is not None and args.learn is not None:
        raise InputError("--command and --learn cannot both be given.", "Learn first, then correct with --command.")
    if args.template is not None:
        changes["command"] = args.template
    if args.learn is not None:
        made = learned(args.learn, project)
        changes |= {"command": made.command, "picture": made.picture}
        said = [f"{one.word}: {{{one.field}}}, {one.why}" for one in made.words]
        said += [f"{word}: not recognised; put a field there if it is one" for word in made.unknown]
    plain = {"folder": args.folder, "picture": args.picture, "at_once": args.at_once, "shell": args.shell}
    changes |= {name: value for name, value in plain.items() if value is not None}
    if args.first_left_out is not None:
        changes["first_left_out"] = args.first_left_out
    if args.limit is not None:
        changes["time_limit_s"] = None if args.limit.strip() == "none" else parse_duration(args.limit)
    lists = {
        "sayings": [read_saying(line) for line in args.say],
        "environment": [_pair(text, "--env") for text in args.env],
        "output": [read_marked_line(line) for line in args.output],
        "header_names": [_pair(text, "--header") for text in args.header],
        "untouched": args.untouched,
        "machines": [dict(zip(("machine", "prefix"), _pair(text, "--machine"), strict=True)) for text in args.machine],
    }
    return changes | {name: tuple(values) for name, values in lists.items() if values}, said


def _pair(text: str, option: str) -> tuple[str, str]:
    name, equals, value = text.partition("=")
    if not equals or not name.strip():
        raise InputError([Problem(option, f"“{text[:60]}” is not like {_PAIR}")])
    return name.strip(), value.strip()


def as_json(way: RenderWay, base: Path) -> dict[str, Any]:
    """Return a way as plain data; it begins in a folder unless it says where."""
    more = {"unreachable": list(unreachable(way)), "allowed": allowed.is_allowed(way, base)}
    return {**way.model_dump(mode="json"), **more}


def as_text(way: RenderWay, base: Path) -> str:
    """Return a way for people."""
    limit = "" if way.time_limit_s is None else format_duration(way.time_limit_s)
    rows = [
        ("command", way.command),
        ("folder", way.folder or "beside the project"),
        ("picture", way.picture or "{out}, as EXR"),
        *(("said", line) for line in sayings_text(way.sayings).splitlines()),
        *(("variable", f"{name}={value}") for name, value in way.environment),
        *(("output", marked_line(example)) for example in way.output),
        *(("header", f"{name}={attribute}") for name, attribute in way.header_names),
        *(("machine", f"{one.machine}: {one.prefix or 'this computer'}") for one in way.machines),
        *(("untouched", folder) for folder in way.untouched),
        *((("limit", limit),) if limit else ()),
        *((("shell", "yes"),) if way.shell else ()),
    ]
    lines = [f"{name:<10}{text}" for name, text in rows]
    missing = not_reachable_words(way)
    lines += [missing] if missing else []
    lines += [] if allowed.is_allowed(way, base) else [f"Not allowed on this computer yet. {allowed.HINT}"]
    return "\n".join(lines)
