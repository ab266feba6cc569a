"""Reads edits: OpenTimelineIO files, and edit lists in the CMX 3600 layout. Files; OpenTimelineIO does the reading."""

import json
import math
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from pemlo.core.editing.cmx_lines import CmxList, cmx_list
from pemlo.core.editing.edit import HINT, Cut, Edit, shot_name, shots_of
from pemlo.core.errors import InputError, Problem
from pemlo.core.persistence.whole_files import read_whole
from pemlo.core.project.names import safe_name, unseen
from pemlo.core.project.project import MOST_SHOTS
from pemlo.core.project.shots import MOST_FRAMES
from pemlo.core.units import counted, round_figures

MOST_BYTES = 100_000_000
MOST_FPS, MOST_SPEED, FARTHEST_FRAME = 1000.0, 10_000.0, 9_000_000


def read_edit(path: Path, fps: float) -> Edit:
    """Read an edit.

    Parameters
    ----------
    path : path
        ``.otio`` or ``.edl``.
    fps : float
        Of an edit list in the CMX 3600 layout, which does not say its own; drop-frame lists say theirs.

    Raises
    ------
    FileError
        If it cannot be read.
    InputError
        If it is no edit, with every broken line by its number.
    """
    data = read_whole(path, MOST_BYTES, "Choose an edit list or an OpenTimelineIO file.")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise InputError([Problem(path.name, "is not text, and no edit")], HINT) from error
    if path.suffix.lower() == ".otio":
        return edit_from_otio(text, path.name)
    return edit_from_cmx(text, fps, path.name)


def edit_from_cmx(text: str, fps: float, name: str = "edit.edl") -> Edit:
    """Read an edit list in the CMX 3600 layout.

    Raises
    ------
    InputError
        With every broken line by its number.
    """
    found = cmx_list(text, fps, name)
    try:
        timeline = _read_cmx(found.text, found.fps)
    except Exception as error:
        # Only the reader of lists has words of its own for people.
        words = str(error).strip()[:200] if type(error).__name__ == "EDLParseError" else ""
        said = "".join(word for word in words if not unseen(word)) or "cannot be read together with the lines before it"
        problem = Problem(f"{name}, line {_failing_line(found)}", said)
        raise InputError([problem], HINT) from error
    return _edit_of(timeline, name, found.fps, found.begins_s, found.unnamed)


def _read_cmx(text: str, fps: float) -> Any:  # noqa: ANN401 - OpenTimelineIO has no types
    import opentimelineio as otio  # noqa: PLC0415 - only where an edit is read

    return otio.adapters.read_from_string(text, "cmx_3600", rate=fps)


def _failing_line(found: CmxList) -> int:
    """Return the line of the first event without which the list would be read."""
    low, high = 0, len(found.event_lines)
    lines = found.text.splitlines()
    while low < high:
        middle = (low + high) // 2
        end = found.event_lines[middle + 1] - 1 if middle + 1 < len(found.event_lines) else len(lines)
        try:
            _read_cmx("\n".join(lines[:end]) + "\n", found.fps)
            low = middle + 1
        except Exception:  # noqa: BLE001 - as above
            high = middle
    return found.event_lines[low] if low < len(found.event_lines) else 1


def edit_from_otio(text: str, name: str = "edit.otio") -> Edit:
    """Read an OpenTimelineIO file.

    Raises
    ------
    InputError
        If it is none.
    """
    import opentimelineio as otio  # noqa: PLC0415 - only where an edit is read

    try:
        json.loads(text)
        found = otio.adapters.read_from_string(text, "otio_json")
    except json.JSONDecodeError as error:
        raise InputError([Problem(f"{name}, line {error.lineno}", "is no JSON, or breaks off")], HINT) from error
    except Exception as error:
        raise InputError([Problem(name, "is no OpenTimelineIO file, or is damaged")], HINT) from error
    if isinstance(found, otio.schema.SerializableCollection):
        found = next((one for one in found if isinstance(one, otio.schema.Timeline)), None)
    if not isinstance(found, otio.schema.Timeline):
        raise InputError([Problem(name, "holds no timeline")], HINT)
    begin = found.global_start_time
    return _edit_of(found, name, 0.0, 0.0 if begin is None else begin.to_seconds())


def _edit_of(
    timeline: Any,  # noqa: ANN401 - as above
    name: str,
    fps: float,
    begins_s: float,
    unnamed: Mapping[str, str] | None = None,
) -> Edit:
    cuts, aside, problems = [], [], []
    for track in timeline.video_tracks():
        for clip in track.find_clips():
            try:
                cut = _cut_of(clip, track, begins_s, unnamed or {})
            except _WrongClipError as error:
                problems.append(Problem(f"{name}, clip {_called(clip)}", str(error)))
                continue
            except Exception:  # noqa: BLE001 - of one clip; the others are read on
                problems.append(Problem(f"{name}, clip {_called(clip)}", "has an impossible length or position"))
                continue
            if isinstance(cut, str):
                aside.append(cut)
            else:
                cuts.append(cut)
    if not cuts and not problems:
        problems.append(Problem(name, "holds no shots"))
    shots = shots_of(cuts)
    if len(shots) > MOST_SHOTS:
        problems.append(Problem(name, f"has {len(shots)} shots, and a film has {MOST_SHOTS} at most"))
    if problems:
        raise InputError(problems[:50], HINT)
    if not fps:
        fps = _rate_of(timeline)
        fps = fps if math.isfinite(fps) and 0 < fps <= MOST_FPS else shots[0].fps
    return Edit(name, fps, shots, tuple(dict.fromkeys(aside)))


class _WrongClipError(ValueError):
    """Says what is wrong with a clip, in words for people."""


def _called(clip: Any) -> str:  # noqa: ANN401 - as above
    return safe_name(str(clip.name)) or "(no name)"


def _checked_rate(rate: float) -> float:
    if not (math.isfinite(rate) and 0 < rate <= MOST_FPS):
        raise _WrongClipError(f"runs at {rate:g} frames a second; write more than 0 and at most {MOST_FPS:g}")
    return rate


def _rate_of(timeline: Any) -> float:  # noqa: ANN401 - as above
    if timeline.global_start_time is not None:
        return float(timeline.global_start_time.rate)
    return float(timeline.duration().rate)


def _cut_of(clip: Any, track: Any, begins_s: float, unnamed: Mapping[str, str]) -> Cut | str:  # noqa: ANN401 - as above
    """Return a clip as a cut; a name alone if it is nothing that is rendered."""
    from opentimelineio import schema  # noqa: PLC0415 - only where an edit is read

    called = shot_name(_own_name(clip, unnamed) or _file_name(clip.media_reference))
    if isinstance(clip.media_reference, schema.GeneratorReference):
        return f"{clip.media_reference.generator_kind or 'generated'} ({clip.name or 'no name'})"
    if not clip.enabled:
        return f"{called} (switched off)"
    if not called:
        raise _WrongClipError("has no name; a shot is known by it")
    seen, trimmed = clip.visible_range(), clip.trimmed_range()
    speed = _speed(clip)
    rate = _checked_rate(float(seen.start_time.rate))
    if not (math.isfinite(speed) and abs(speed) <= MOST_SPEED):
        raise _WrongClipError(f"is retimed by {speed:g}; at most {MOST_SPEED:g}")
    if not 0 < seen.duration.value * max(abs(speed), 1e-9) < MOST_FRAMES:
        raise _WrongClipError(
            f"is {seen.duration.value:g} frames long; a shot has 1 to {counted(MOST_FRAMES, 'frame')}"
        )
    if not abs(seen.start_time.value) <= FARTHEST_FRAME:
        raise _WrongClipError(
            f"begins at frame {seen.start_time.value:g}; numbers go up to {round_figures(FARTHEST_FRAME, 7)}"
        )
    first = math.floor(seen.start_time.value + 1e-6)
    needed = 1 if speed == 0 else max(1, math.ceil(seen.duration.value * abs(speed) - 1e-6))
    at = begins_s + clip.transformed_time(trimmed.start_time, track).to_seconds()
    last = first + needed - 1
    if speed < 0:
        first, last = first - needed + 1, first
    if not math.isfinite(at):
        raise _WrongClipError("has no position in the edit")
    return Cut(called, first, last, rate, at, speed)


def _own_name(clip: Any, unnamed: Mapping[str, str]) -> str:  # noqa: ANN401 - as above
    """Return what a clip is called: where a list names none, its reel, and not the number of its event."""
    reel = clip.metadata.get("cmx_3600", {}).get("reel")
    return reel if reel and (not clip.name or unnamed.get(clip.name) == reel) else str(clip.name or "")


def _file_name(reference: Any) -> str:  # noqa: ANN401 - as above
    url = getattr(reference, "target_url", None) or getattr(reference, "name_prefix", None) or ""
    return str(url).rstrip("/").rpartition("/")[2]


def _speed(clip: Any) -> float:  # noqa: ANN401 - as above
    """Return how fast the material runs in a clip: the product of its retimes."""
    from opentimelineio import schema  # noqa: PLC0415 - only where an edit is read

    speed = 1.0
    for effect in clip.effects:
        if isinstance(effect, schema.FreezeFrame):
            return 0.0
        if isinstance(effect, schema.LinearTimeWarp):
            speed *= float(effect.time_scalar)
    return speed
