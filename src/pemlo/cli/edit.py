"""``pemlo edit``: what a changed edit does to the film, its hours and its deadline; and the film with it."""

import argparse
import json
from pathlib import Path
from typing import Any

from pemlo.cli.arguments import finite, seed
from pemlo.cli.estimate import as_json
from pemlo.core.editing.apart import read_edit_apart
from pemlo.core.editing.changed_edit import EditChange, ShotChange, edit_change
from pemlo.core.editing.timecode import counts_drop, timecode
from pemlo.core.persistence.document import read_project, write_project
from pemlo.core.project.edits import set_handles
from pemlo.core.project.project import Project
from pemlo.words.change_effect import ChangeEffect, change_effect

_DESCRIPTION = """Holds an edit (OpenTimelineIO, or an edit list in the CMX 3600 layout) against the film: shots new,
gone, longer, shorter, and what that does to hours and deadline. With --take the film is written with it."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Say what the command takes."""
    parser.description = _DESCRIPTION
    parser.add_argument("project", type=Path)
    parser.add_argument("edit", type=Path, help=".otio or .edl")
    parser.add_argument("--fps", type=finite, help="of an edit list, which does not say its own (default: the film's)")
    parser.add_argument("--handles", type=int, help="frames more at either end of each shot, from now on")
    parser.add_argument("--keep-gone", action="store_true", help="keep shots that the edit does not have")
    parser.add_argument("--first", type=int, help="first frame of new shots (default: that of most shots)")
    parser.add_argument("--take", action="store_true", help="write the film with the edit")
    parser.add_argument("-o", "--output", type=Path, help="where --take writes (default: the project itself)")
    parser.add_argument("--json", action="store_true", help="write JSON")
    parser.add_argument("--seed", type=seed, default=0, help="of the random numbers; the same seed, the same answer")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    """Print what changes."""
    project = read_project(args.project)
    edit = read_edit_apart(args.edit, args.fps or project.delivery.fps)
    change = edit_change(project, edit, keep_gone=args.keep_gone, first_frame=args.first)
    taken = change.project if args.handles is None else set_handles(change.project, args.handles)
    effect = change_effect(project, taken, args.seed)
    if args.json:
        print(json.dumps(change_json(change, effect, project, taken), indent=1))
    else:
        print(*as_lines(change, effect), sep="\n")
    if args.take:
        write_project(taken, args.output or args.project)
        if not args.json:
            print(f"{args.output or args.project}: written with {edit.name}.")
    return 0


def as_lines(change: EditChange, effect: ChangeEffect) -> list[str]:
    """Return what changes, for people."""
    begins = {cut.name: cut.at_s for cut in change.edit.shots}
    fps = change.edit.fps
    lines = [change.words, *change.notes]
    for shot in change.shots:
        if shot.fate == "same" and not shot.notes:
            continue
        at = begins.get(shot.called)
        drop = counts_drop(fps)
        where = "" if at is None or at < 0 else f"  at {timecode(round(at * fps), fps, drop=drop)}"
        lines.append(
            f"  {shot.fate:<8}{shot.shot:<14}{_frames(shot):<24}{where}{''.join(f'; {note}' for note in shot.notes)}"
        )
    return [*lines, *effect.lines]


def _frames(shot_change: ShotChange) -> str:
    before, after = (
        None if part is None else f"{part[0]}-{part[1]}" for part in (shot_change.before, shot_change.after)
    )
    if before is None or after is None or before == after:
        return before or after or ""
    return f"{before} becomes {after}"


def change_json(change: EditChange, effect: ChangeEffect, project: Project, taken: Project) -> dict[str, Any]:
    """Return what changes as plain data."""
    return {
        "edit": change.edit.name,
        "fps": change.edit.fps,
        "words": change.words,
        "notes": list(change.notes),
        "shots": [
            {"shot": shot.shot, "in_edit": shot.called, "fate": shot.fate, "before": shot.before, "after": shot.after,
             "frames": shot.frames, "notes": list(shot.notes)}
            for shot in change.shots
        ],
        "before": as_json(project, effect.before),
        "after": as_json(taken, effect.after),
    }  # fmt: skip
