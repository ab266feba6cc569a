"""Checks of the disk: what would be overwritten, whether folders can be written, whether there is room. Pure."""

import math
import posixpath
from collections.abc import Sequence

from pemlo.core.forecast.disk_memory import disk_memory_of, sum_of
from pemlo.core.foreign import shown
from pemlo.core.frames import format_frames
from pemlo.core.preflight.check_context import CheckContext
from pemlo.core.preflight.finding import Finding, Fix, fine, not_known, wrong
from pemlo.core.preflight.fixes import set_row
from pemlo.core.preflight.written_paths import frames_of_row, one_file
from pemlo.core.project.launch import LaunchRow
from pemlo.core.project.shots import Shot
from pemlo.core.units import counted, format_interval, round_figures


def nothing_is_overwritten(here: CheckContext) -> list[Finding]:
    """No file that is there is written anew."""
    name, found = "overwriting", []
    for (shot, row), paths in zip(here.each(), here.paths, strict=True):
        if not paths or not any(folder_of(path) in here.folders for path in paths[:1]):
            found.append(not_known(name, f"Whether files of {shot.name} exist is not known.", "", shot.name))
            continue
        existing = frames_there(here, row, paths)
        if existing and row.skips:
            found.append(
                fine(name, shot.name, f"{counted(len(existing), 'frame')} of {shot.name} exist, and are skipped.")
            )
        elif existing and one_file(row):
            words = f"{shown(paths[0])} of {shot.name} exists and would be overwritten."
            found.append(wrong(name, words, "Give it another name, or another folder.", shot.name))
        elif existing:
            frames = format_frames(tuple(existing))
            exist = "exists" if len(existing) == 1 else "exist"
            words = f"{counted(len(existing), 'frame')} of {shot.name} {exist} and would be overwritten: {frames}."
            folder = f"{row.folder or '.'}/new"
            mend = Fix(f"Write {shot.name} into {folder}", set_row(shot.name, folder=folder))
            found.append(wrong(name, words, "Render the missing frames only, or into another folder.", shot.name, mend))
        else:
            found.append(fine(name, shot.name))
    return found


def frames_there(here: CheckContext, row: LaunchRow, paths: Sequence[str]) -> list[int]:
    """Return the frames of a row whose files are there; of one that writes one file its first."""
    frames = frames_of_row(row)
    numbered = frames if len(paths) == len(frames) else [row.first or 0] * len(paths)
    return [
        frame
        for frame, path in zip(numbered, paths, strict=True)
        if (facts := here.folders.get(folder_of(path))) and path.rpartition("/")[2] in facts.names
    ]


def folder_of(path: str) -> str:
    """Return the folder of a path, as situations name it."""
    folder, slash, _ = path.rpartition("/")
    return folder or slash or "."


def folders_can_be_written(here: CheckContext) -> list[Finding]:
    """Each folder is there, or can be made, and may be written."""
    name, found = "folders", []
    for (shot, _), paths in zip(here.each(), here.paths, strict=True):
        facts = here.folders.get(folder_of(paths[0])) if paths else None
        if facts is None:
            found.append(
                not_known(
                    name, f"Where frames of {shot.name} go is not known.", "Say a folder and a pattern.", shot.name
                )
            )
        elif not facts.writable:
            where = folder_of(paths[0])
            state = "may not be written" if facts.is_folder else "is not there and cannot be made"
            words = f"The folder {shown(where)} of {shot.name} {state}."
            found.append(wrong(name, words, "Choose another.", shot.name))
        elif other := _watched_elsewhere(here, shot, paths[0]):
            words = f"{shot.name} is written into {shown(folder_of(paths[0]))}, and {shown(other)} is watched."
            found.append(not_known(name, words, "Watch that folder, or write into the one that is watched.", shot.name))
        elif not facts.is_folder:
            todo = f"See that {shown(folder_of(paths[0]))} is its name; it can be made."
            found.append(not_known(name, f"The folder of {shot.name} is not there yet.", todo, shot.name))
        else:
            found.append(fine(name, shot.name))
    return found


def _watched_elsewhere(here: CheckContext, shot: Shot, path: str) -> str:
    """Return the folder in which frames of a shot are watched for, if they are written into another; else empty."""
    place = (shot.place or here.project.watching.place).replace("\\", "/")
    if not place or "{" in place.rpartition("/")[0].replace("{shot}", ""):
        return ""
    watched = place.rpartition("/")[0].replace("{shot}", shot.name) or "."
    return "" if posixpath.normpath(watched) == posixpath.normpath(folder_of(path)) else watched


def there_is_room(here: CheckContext) -> list[Finding]:
    """The disk takes all frames that are to be written."""
    name, project = "room", here.project
    parts = [disk_memory_of(project, shot, shot.settings).disk_gib for shot in project.shots]
    free = [facts.free_gib for facts in here.folders.values() if not math.isnan(facts.free_gib)]
    known = [part for part in parts if part is not None]
    if len(known) < len(parts) or not known:
        return [not_known(name, "How much disk the frames take is not known.", "Bring in a trial with its picture.")]
    if not free:
        return [not_known(name, "How much room there is on the disk is not known.", "Say where frames go.")]
    needs, least = sum_of(known), min(free)
    amount = format_interval(needs)
    if least < needs.high:
        words = f"All frames take {amount} GiB, and {round_figures(least)} GiB are free."
        return [wrong(name, words, "Make room, or write to another disk.")]
    return [fine(name)]
