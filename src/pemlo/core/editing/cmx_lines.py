"""The lines of an edit list in the CMX 3600 layout, looked through before it is read. Pure.

The reader stops at the first thing that it does not like and does not say where; here each line is looked at alone.
"""

import re
from collections.abc import Mapping
from dataclasses import dataclass

from pemlo.core.editing.edit import HINT
from pemlo.core.editing.timecode import counts_drop, frame_of
from pemlo.core.errors import InputError, Problem
from pemlo.core.foreign import shown
from pemlo.core.project.delivery import exact_rate

_EVENT = re.compile(r"\s*\d+\s")
_TIMECODE = re.compile(r"^\d{2}:\d{2}:\d{2}[:;.,]\d{2}$")
_OTHER = re.compile(r"\s*(?:TITLE:|FCM:|\*|M2\s|SPLIT:|AUD\s|EFFECTS NAME|$)", re.IGNORECASE)
_NAMES = re.compile(r"\s*\*\s*(?:FROM|TO) (?:CLIP|FILE)", re.IGNORECASE)
_BLACK = ("BL", "BLACK")
_NO_REELS = ("AX", *_BLACK, "BARS")


@dataclass(frozen=True)
class CmxList:
    """A list whose lines are as they should be.

    Attributes
    ----------
    text : str
        With the mark of drop-frame in every timecode where the list counts so.
    fps : float
    begins_s : float
        Of the first event in the edit, seconds.
    event_lines : tuple of int
        Where events begin, from 1.
    unnamed : mapping of str to str
        Reels of events that name no clip, by their numbers.
    """

    text: str
    fps: float
    begins_s: float
    event_lines: tuple[int, ...]
    unnamed: Mapping[str, str]


def cmx_list(text: str, fps: float, name: str) -> CmxList:
    """Look through a list.

    Raises
    ------
    InputError
        With every broken line by its number.
    """
    lines = text.splitlines()
    drop = any(re.match(r"\s*FCM:\s*DROP", line, re.IGNORECASE) for line in lines)
    drop = drop or any(_TIMECODE.match(word) and word[8] in ";," for line in lines for word in line.split())
    fps = exact_rate(fps)
    if drop and not counts_drop(fps):
        fps = 60000 / 1001 if fps > 45 else 30000 / 1001
    problems: list[Problem] = []
    events: list[int] = []
    begins: float | None = None
    fixed = []
    counting = False
    for number, line in enumerate(lines, 1):
        where = f"{name}, line {number}"
        if matched := re.match(r"\s*FCM:\s*(NON-)?DROP", line, re.IGNORECASE):
            counting = matched[1] is None
        if not _EVENT.match(line):
            if not events and not _OTHER.match(line):
                problems.append(Problem(where, f"“{line.strip()[:40]}” is no line of an edit list"))
            fixed.append(line)
            continue
        words = line.split()
        words = [_with_drop(word, drop=counting) for word in words]
        found = _wrong_event(words, fps)
        if not found and _is_transition(words) and len(events) < 2:
            if events and _is_black(lines[events[0] - 1].split()):
                # From black at the very beginning, for which the reader has no place: the same frames as by a cut.
                fixed[events[0] - 1] = ""
                words = [*words[:3], "C", *words[5:]]
            elif not events:
                found = ["is a dissolve or a wipe with no event before it; begin with a cut (C)"]
        problems += [Problem(where, what) for what in found]
        events.append(number)
        if not found and begins is None:
            begins = _frames(words[-2], fps) / fps
        fixed.append("  ".join(words))
    if not events and not problems:
        problems.append(Problem(name, "holds no events; one is written like 001  S010  V  C  and four timecodes"))
    if problems:
        raise InputError(problems[:50], HINT)
    # An event of several lines is cut at its first alone.
    first = [
        number for number, before in zip(events, [0, *events], strict=False) if _first_of_event(lines, number, before)
    ]
    return CmxList("\n".join(fixed) + "\n", fps, begins or 0.0, tuple(first), _unnamed(lines))


def _is_transition(words: list[str]) -> bool:
    return len(words) == 9


def _is_black(words: list[str]) -> bool:
    return words[1].upper() in _BLACK and words[3].upper() == "C" and words[-4] == words[-3]


def _unnamed(lines: list[str]) -> dict[str, str]:
    reels: dict[str, str] = {}
    last = ""
    for line in lines:
        if _EVENT.match(line):
            last, reel = line.split()[:2]
            reels[last] = reel
        elif last and _NAMES.match(line):
            reels.pop(last, None)
    return {number: reel for number, reel in reels.items() if reel not in _NO_REELS}


def _first_of_event(lines: list[str], number: int, before: int) -> bool:
    return not before or lines[number - 1].split()[0] != lines[before - 1].split()[0]


def _with_drop(word: str, *, drop: bool) -> str:
    return f"{word[:8]};{word[9:]}" if drop and _TIMECODE.match(word) else word


def _frames(word: str, fps: float) -> int:
    if ":" in word:
        return frame_of(word, fps)
    if not (word.isdecimal() and len(word) < 10):
        raise ValueError(f"“{shown(word, 40)}” is neither a timecode nor a number of frames")
    return int(word)


def _wrong_event(words: list[str], fps: float) -> list[str]:
    """Return what is wrong with a line of an event."""
    if len(words) < 8:
        return [f"has {len(words)} columns; an event has eight: number, reel, track, cut, and four timecodes"]
    if len(words) > 9:
        return [f"has {len(words)} columns; an event has eight, or nine with the length of its transition"]
    kind = words[3].upper()
    wrong = []
    if len(words) == 8 and kind != "C":
        wrong.append(f"is a transition “{words[3]}” without its length in frames")
    if len(words) == 9 and not (re.fullmatch(r"D|W\d{3}", kind) and words[4].isdecimal() and len(words[4]) < 7):
        wrong.append(f"has the transition “{words[3]} {words[4]}”, which is neither D nor W and its frames")
    times = []
    for word in words[-4:]:
        try:
            times.append(_frames(word, fps))
        except ValueError as error:
            wrong.append(str(error))
    if len(times) == 4:
        for what, (begin, end) in (("source", (times[0], times[1])), ("edit", (times[2], times[3]))):
            if end < begin:
                wrong.append(f"ends before it begins in the {what}: {' '.join(words[-4:])}")
    return wrong
