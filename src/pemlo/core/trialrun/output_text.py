"""A line of output with its marks as text: ``done in [seconds:12.3 s]``. Pure text."""

import re
from typing import get_args

from pemlo.core.errors import InputError, Problem
from pemlo.core.project.record import build
from pemlo.core.project.render_ways import OutputExample, OutputField

_MARK = re.compile(r"\[(\w{1,20}):([^\[\]]{1,200})\]")


def read_marked_line(text: str) -> OutputExample:
    """Read a line in which each mark stands in brackets behind its field.

    Raises
    ------
    InputError
        If nothing is marked, or a field is unknown.

    Examples
    --------
    >>> one = read_marked_line("frame [frame:5] done in [seconds:12.3 s]")
    >>> one.line, [(mark.field, one.line[mark.begin : mark.end]) for mark in one.marks]
    ('frame 5 done in 12.3 s', [('frame', '5'), ('seconds', '12.3 s')])
    """
    line, marks, at = "", [], 0
    for match in _MARK.finditer(text):
        if match[1] not in get_args(OutputField):
            continue
        line += text[at : match.start()]
        marks.append({"field": match[1], "begin": len(line), "end": len(line) + len(match[2])})
        line += match[2]
        at = match.end()
    line += text[at:]
    if not marks:
        raise InputError(
            [Problem("Output", f"nothing is marked in “{text[:60]}”")],
            f"Mark like “done in [seconds:12.3 s]”; fields are {', '.join(get_args(OutputField))}.",
        )
    return build(OutputExample, {"line": line, "marks": marks}, "Output")


def marked_line(example: OutputExample) -> str:
    """Write an example with its marks in brackets."""
    made, at = "", 0
    for mark in sorted(example.marks, key=lambda one: one.begin):
        made += f"{example.line[at : mark.begin]}[{mark.field}:{example.line[mark.begin : mark.end]}]"
        at = mark.end
    return made + example.line[at:]
