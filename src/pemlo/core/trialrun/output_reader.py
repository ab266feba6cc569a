"""Reads what a renderer wrote, by example: lines like the one in which somebody marked what is what. Pure text."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import re2

from pemlo.core.arrivals.log_reader import AMOUNT, DURATION, MEMORY, NUMBER, WORDS, expression_of, gib
from pemlo.core.errors import InputError
from pemlo.core.files.text_lines import LONGEST_LINE
from pemlo.core.project.render_ways import OUTPUT_FIELDS, OutputExample, OutputField
from pemlo.core.units import parse_duration

_OTHERS = {"frame": NUMBER, "mean_samples": AMOUNT, "memory": MEMORY}
_SHAPES: Mapping[str, str] = {field: _OTHERS.get(field, DURATION) for field in OUTPUT_FIELDS}


@dataclass(frozen=True)
class OutputSays:
    """What a renderer said of one frame.

    Attributes
    ----------
    values : mapping of str to float
        By field: seconds, samples, GiB.
    first_of_several : bool
        Whether its process rendered others after it: the first of them also loads.
    """

    values: Mapping[OutputField, float]
    first_of_several: bool = False


class OutputPattern:
    """Lines like an example."""

    def __init__(self, example: OutputExample, words: int) -> None:
        options = re2.Options()
        options.case_sensitive = False
        self._fields = tuple(mark.field for mark in example.marks)
        self._compiled: Any = re2.compile(expression_of(example.line, example.marks, words, _SHAPES), options)

    def read(self, line: str) -> dict[OutputField, float] | None:
        """Return what a line says; None if it is none of these, or its numbers are none."""
        match = self._compiled.fullmatch(line.rstrip("\r\n")[:LONGEST_LINE])
        if match is None:
            return None
        said = match.groupdict()
        try:
            return {field: _value(field, said[field]) for field in self._fields}
        except (ValueError, InputError):
            return None


def _value(field: OutputField, text: str) -> float:
    if field == "frame":
        return float(int(text))
    if field == "mean_samples":
        return float(text.replace(",", ""))
    return gib(text) if field == "memory" else _seconds(text)


def _seconds(text: str) -> float:
    # A stage may take no time, which no frame does.
    try:
        return parse_duration(text)
    except InputError:
        if float(text.strip().rstrip("s").replace(",", ".")) == 0:
            return 0.0
        raise


def pattern_of_output(example: OutputExample, lines: Sequence[str] = ()) -> OutputPattern:
    """Return the strictest pattern that reads its own example, and some of the given lines if any does.

    Raises
    ------
    InputError
        If what is marked cannot be read.
    """
    own = [made for words in WORDS if (made := OutputPattern(example, words)).read(example.line) is not None]
    if not own:
        raise InputError(
            "What is marked in the line of the output cannot be read.",
            "Mark the whole number, such as 4:02 or 242.1 s for a time, 3.1 GiB for memory.",
        )
    return next((made for made in own if any(made.read(line) is not None for line in lines)), own[0])


def read_output(examples: Iterable[OutputExample], text: str, frame: int) -> OutputSays:
    """Return what the output says of a frame; of lines that are alike, the last counts."""
    lines = text.splitlines()
    values: dict[OutputField, float] = {}
    frames: list[int] = []
    for example in examples:
        pattern = pattern_of_output(example, lines)
        for line in lines:
            said = pattern.read(line)
            if said is None:
                continue
            of_frame = int(said.pop("frame", frame))
            frames.append(of_frame)
            if of_frame == frame:
                values |= said
    seen = list(dict.fromkeys(frames))
    return OutputSays(values, len(seen) > 1 and seen[0] == frame)
