"""Reads logs by example: from one line in which somebody marked what is what. Pure text; files in `read_on` only.

Patterns made of somebody's examples are searched by RE2, whose time grows with a line's length and no faster, whatever
the line holds. Around each mark the nearest words of the line must be there again, with other numbers; what lies
farther away may be anything. Of patterns with more and fewer such words, the strictest is taken that reads nearly as
many lines as the loosest.
"""

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from functools import cached_property
from pathlib import Path
from typing import Any, Protocol

import re2

from pemlo.core.errors import InputError
from pemlo.core.files.text_lines import LONGEST_LINE, ReadTo, read_on
from pemlo.core.project.watching import LogExample, LogField
from pemlo.core.units import parse_duration

_TOKEN = re.compile(r"\d+|[^\W\d]+|\s+|[^\w\s]|_")
AMOUNT, MEMORY = r"\d[\d.,]{0,20}", r"\d[\d.,]{0,20}\s{0,3}[KMGT]?i?B?"
_TEXT, NUMBER, DURATION, _CLOCK = (
    r".+?",
    r"-?\d{1,9}",
    r"[\d.,:]{1,20}(?:\s{0,3}[a-z]{1,7})?(?:\s{0,3}[\d.,]{1,20}\s{0,3}[a-z]{0,7}){0,3}",
    r"[\d].*?\d(?:Z|[+-]\d\d:?\d\d)?",
)
_SHAPES: dict[str, str] = {
    "frame": NUMBER, "seconds": DURATION, "shot": _TEXT, "machine": _TEXT, "samples": AMOUNT,
    "memory": MEMORY, "begun": _CLOCK, "ended": _CLOCK,
}  # fmt: skip
_APART = r"[^\pL\pN_.:-]"
WORDS = (4, 2, 1, 0)  # tokens around each mark that must be there again
_NEARLY = 0.8
_LONGEST_TIME, _NO_YEAR = 60, 1900
EARLIEST, LATEST = 1970, 2200  # years that a log may name; 1900 stands for a time of day alone
_FORMATS = ("%Y/%m/%d %H:%M:%S", "%d.%m.%Y %H:%M:%S", "%d/%m/%Y %H:%M:%S", "%b %d %H:%M:%S", "%H:%M:%S", "%H:%M")
_MEMORY = {"K": 2.0**-20, "M": 2.0**-10, "G": 1.0, "T": 2.0**10}
_AMOUNT = re.compile(r"(\d[\d.,]{0,20})\s{0,3}([KMGT]?)i?B?", re.IGNORECASE)
MOST_UNREAD = 3


@dataclass(frozen=True)
class LogLine:
    """What a line says; NaN and empty where it does not. Clock times are seconds since 1970, or of a day."""

    frame: int
    shot: str = ""
    machine: str = ""
    seconds: float | None = None
    samples: float | None = None
    memory_gib: float | None = None
    begun: datetime | None = None
    ended: datetime | None = None


@dataclass(frozen=True)
class LogPattern:
    """What lines look like.

    Attributes
    ----------
    expression : str
        Regular expression with a group for each field.
    """

    expression: str

    @cached_property
    def compiled(self) -> Any:  # noqa: ANN401 - the library has no types
        options = re2.Options()
        options.case_sensitive = False
        return re2.compile(self.expression, options)

    def read(self, line: str) -> LogLine | None:
        """Return what a line says; None if it is none of these, or its numbers are none."""
        match = self.compiled.fullmatch(line.rstrip("\r\n")[:LONGEST_LINE])
        if match is None:
            return None
        try:
            return _line_of(match.groupdict())
        except (ValueError, InputError):
            return None


def _line_of(said: dict[str, str]) -> LogLine:
    memory = said.get("memory")
    samples = said.get("samples")
    return LogLine(
        int(said["frame"]),
        said.get("shot", "").strip(),
        said.get("machine", "").strip(),
        parse_duration(said["seconds"]) if "seconds" in said else None,
        float(samples.replace(",", "")) if samples else None,
        gib(memory) if memory else None,
        clock_time(said["begun"]) if "begun" in said else None,
        clock_time(said["ended"]) if "ended" in said else None,
    )


def gib(text: str) -> float:
    """Read an amount of memory, GiB; a number alone is of them.

    Raises
    ------
    ValueError
        If it is none.
    """
    match = _AMOUNT.fullmatch(text.strip())
    if match is None:
        raise ValueError(text)
    return float(match[1].replace(",", "")) * _MEMORY[(match[2] or "G").upper()]


def clock_time(text: str) -> datetime:
    """Read a date and time of day as logs have them; of a time alone the day is the first of 1900.

    Raises
    ------
    ValueError
        If it is none.
    """
    plain = text.strip()[:_LONGEST_TIME].replace(",", ".")
    moment = _clock_time(plain)
    if moment.year != _NO_YEAR and not EARLIEST <= moment.year <= LATEST:
        raise ValueError(f"“{plain}” is in no year of a log")
    return moment


def _clock_time(plain: str) -> datetime:
    try:
        return datetime.fromisoformat(plain)
    except ValueError:
        pass
    whole, _, part = plain.partition(".")
    if plain.count(".") != 1 or not part.isdecimal():
        whole, part = plain, ""
    for form in _FORMATS:
        try:
            moment = datetime.strptime(whole, form)  # noqa: DTZ007 - a log's own time, whose zone is not said
        except ValueError:
            continue
        return moment + timedelta(seconds=float(f"0.{part}") if part else 0.0)
    raise ValueError(f"“{plain}” is no time of day")


def pattern_of(example: LogExample, lines: Sequence[str] = ()) -> LogPattern:
    """Return what lines look like that are like an example.

    Parameters
    ----------
    example : LogExample
    lines : sequence of str
        Of the log; those that are looked at to see how much may differ.
    """
    candidates = [LogPattern(expression_of(example.line, example.marks, words, _SHAPES)) for words in WORDS]
    own = [candidate for candidate in candidates if _reads_marks(candidate, example)]
    if not own:
        raise InputError(
            "What is marked in the line cannot be read.",
            "Mark the whole number of the frame, and a time such as 4:02, 242.1 s or 21:04:10.",
        )
    counts = [sum(log_pattern.read(line) is not None for line in lines) for log_pattern in own]
    most = max(counts)
    return next(log_pattern for log_pattern, count in zip(own, counts, strict=True) if count >= _NEARLY * most)


def _reads_marks(pattern: LogPattern, example: LogExample) -> bool:
    """Whether a pattern finds in the example what was marked there, and can read it."""
    line = example.line.rstrip("\r\n")
    match = pattern.compiled.fullmatch(line)
    return (
        match is not None
        and all(match[mark.field] == line[mark.begin : mark.end] for mark in example.marks)
        and pattern.read(line) is not None
    )


class MarkedPart(Protocol):
    """Which characters of a line are a field."""

    @property
    def field(self) -> str:
        """Its name."""

    @property
    def begin(self) -> int:
        """Its first character."""

    @property
    def end(self) -> int:
        """The character after its last."""


def expression_of(example: str, marked: Sequence[MarkedPart], words: int, shapes: Mapping[str, str]) -> str:
    """Return an expression of lines like an example.

    Parameters
    ----------
    example : str
        The line.
    marked : sequence of MarkedPart
    words : int
        How many words on either side of each mark must be there again, one of `WORDS`.
    shapes : mapping of str to str
        Expression of each field.
    """
    marks = sorted(marked, key=lambda one: one.begin)
    line, made, at = example.rstrip("\r\n"), "", 0
    for number, mark in enumerate(marks):
        made += _between(line[at : mark.begin], words, first=number == 0, last=False)
        made += f"(?P<{mark.field}>{shapes[mark.field]})"
        at = mark.end
    return made + _between(line[at:], words, first=False, last=True)


def _between(text: str, words: int, *, first: bool, last: bool) -> str:
    """Return an expression for what stands between two marks, of which so many tokens at either end must be there."""
    tokens = _TOKEN.findall(text)
    before = [] if first else tokens[:words]
    after = [] if last else tokens[max(len(before), len(tokens) - words) :] if words else []
    left, right = "".join(map(_token, before)), "".join(map(_token, after))
    if len(before) + len(after) >= len(tokens):
        return left + right if tokens else ""
    # What touches a mark may not be of its kind: else a number would be cut in two.
    return (
        f"{left}.*?{right}"
        if words
        else r"(?:.*?[^\w.:-])?"
        if first
        else r"(?:[^\w.:-].*?)?"
        if last
        else r"[^\w.:-]+(?:.*?[^\w.:-])?"
    )


def _token(token: str) -> str:
    if token.isdecimal():
        return r"\d+"
    return r"\s+" if token.isspace() else re.escape(token)


@dataclass(frozen=True)
class ReadLines:
    """How many lines of a log are read, how many are not, and the first of those."""

    read: int
    unread: int
    first_unread: tuple[str, ...]


def try_on(patterns: Sequence[LogPattern], lines: Iterable[str]) -> ReadLines:
    """Say how many lines patterns read."""
    first: list[str] = []
    read, left = 0, 0
    for line in lines:
        if not line.strip():
            continue
        if any(pattern.read(line) is not None for pattern in patterns):
            read += 1
            continue
        left += 1
        if len(first) < MOST_UNREAD:
            first.append(line.rstrip("\r\n"))
    return ReadLines(read, left, tuple(first))


@dataclass
class LogReader:
    """A log that grows: read on from where it was, frames put together from lines that lie apart.

    Attributes
    ----------
    path : path
    patterns : sequence of LogPattern
    """

    path: Path
    patterns: Sequence[LogPattern]
    frames_read: int = field(default=0, init=False)
    too_long: int = field(default=0, init=False)
    _place: ReadTo = field(default=ReadTo(), init=False)
    _begun: dict[tuple[str, int], LogLine] = field(default_factory=dict, init=False)
    _last: datetime | None = field(default=None, init=False)

    def read_on(self) -> tuple[LogLine, ...]:
        """Return the frames of lines that are new; all of them where the log is another than before.

        Raises
        ------
        FileError
            If the log cannot be read.
        """
        found = read_on(self.path, self._place)
        if found.anew:
            self.frames_read = self.too_long = 0
            self._last = None
            self._begun.clear()
        self._place = found.place
        self.too_long += found.too_long
        frames = tuple(log_line for line in found.lines if (log_line := self._frame_of(line)) is not None)
        self.frames_read += len(frames)
        return frames

    def _frame_of(self, line: str) -> LogLine | None:
        """Return a frame once all is known of it."""
        for pattern in self.patterns:
            said = pattern.read(line)
            if said is None:
                continue
            said = self._dated(said)
            if said.seconds is not None:
                return said
            key = (said.shot, said.frame)
            if said.ended is None:
                self._begun[key] = said
                return None
            before = self._begun.pop(key, None)
            begun = said.begun or (before.begun if before else None)
            if begun is None or said.ended <= begun:
                return None
            machine = said.machine or (before.machine if before else "")
            return LogLine(
                said.frame, said.shot, machine, (said.ended - begun).total_seconds(), said.samples, said.memory_gib,
                begun, said.ended,
            )  # fmt: skip
        return None

    def _dated(self, said: LogLine) -> LogLine:
        """Return a line whose times of day alone follow each other over midnight."""
        moments = {}
        for name in ("begun", "ended"):
            moment = getattr(said, name)
            if moment is None:
                continue
            moment = moment.replace(tzinfo=None)
            if moment.year == _NO_YEAR and self._last is not None:
                moment = moment.replace(year=self._last.year, month=self._last.month, day=self._last.day)
                if moment < self._last - timedelta(hours=12):
                    moment += timedelta(days=1)
            self._last = moment
            moments[name] = moment
        if not moments:
            return said
        return LogLine(said.frame, said.shot, said.machine, said.seconds, said.samples, said.memory_gib,
                       moments.get("begun"), moments.get("ended"))  # fmt: skip


def fields_of(example: LogExample) -> tuple[LogField, ...]:
    """Return what is marked in an example, in the order of the line."""
    return tuple(mark.field for mark in sorted(example.marks, key=lambda one: one.begin))
