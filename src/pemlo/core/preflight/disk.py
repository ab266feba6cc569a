"""Checks of the disk: what would be overwritten, whether folders can be written, whether there is room. Pure."""

import math

from pemlo.core.forecast.disk_memory import disk_memory_of, sum_of
from pemlo.core.foreign import shown
from pemlo.core.frames import format_frames
from pemlo.core.preflight.finding import Finding, Mend, fine, not_known, wrong
from pemlo.core.preflight.mends import set_row
from pemlo.core.preflight.situation import Situation
from pemlo.core.preflight.written_paths import frames_of_row
from pemlo.core.units import counted, format_interval, round_figures


def nothing_is_overwritten(here: Situation) -> list[Finding]:
    """No file that is there is written anew."""
    name, found = "overwriting", []
    for (shot, row), paths in zip(here.each(), here.paths, strict=True):
        if not paths or not any(folder_of(path) in here.folders for path in paths[:1]):
            found.append(not_known(name, f"Whether files of {shot.name} are there is not known.", "", shot.name))
            continue
        there = [
            frame
            for frame, path in zip(frames_of_row(row), paths, strict=True)
            if (facts := here.folders.get(folder_of(path))) and path.rpartition("/")[2] in facts.names
        ]
        if there:
            frames = format_frames(tuple(there))
            words = f"{counted(len(there), 'frame')} of {shot.name} are there and would be overwritten: {frames}."
            folder = f"{row.folder or '.'}/new"
            mend = Mend(f"Write {shot.name} into {folder}", set_row(shot.name, folder=folder))
            found.append(wrong(name, words, "Render what is missing, or into another folder.", shot.name, mend))
        else:
            found.append(fine(name, shot.name))
    return found


def folder_of(path: str) -> str:
    """Return the folder of a path, as situations name it."""
    folder, slash, _ = path.rpartition("/")
    return folder or slash or "."


def folders_can_be_written(here: Situation) -> list[Finding]:
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
            state = "may not be written" if facts.there else "is not there and cannot be made"
            words = f"The folder {shown(where)} of {shot.name} {state}."
            found.append(wrong(name, words, "Choose another.", shot.name))
        else:
            found.append(fine(name, shot.name))
    return found


def there_is_room(here: Situation) -> list[Finding]:
    """The disk takes all frames that are to be written."""
    name, project = "room", here.project
    parts = [disk_memory_of(project, shot, shot.settings).disk_gib for shot in project.shots]
    free = [facts.free_gib for facts in here.folders.values() if not math.isnan(facts.free_gib)]
    known = [one for one in parts if one is not None]
    if len(known) < len(parts) or not known:
        return [not_known(name, "How much disk the frames take is not known.", "Bring in a trial with its picture.")]
    if not free:
        return [not_known(name, "How much room there is on the disk is not known.", "Say where frames go.")]
    needs, least = sum_of(known), min(free)
    amount = format_interval(needs.low, needs.value, needs.high)
    if least < needs.high:
        words = f"All frames take {amount} GiB, and {round_figures(least)} GiB are free."
        return [wrong(name, words, "Make room, or write to another disk.")]
    return [fine(name)]
