"""Command lines from somebody's own template: fields in braces, each value quoted for the shell. Never run. Pure text.

A value is put in as one argument, whatever it holds: a shell reads back what was meant, and nothing else.
"""

import re
import shlex
from collections.abc import Callable
from dataclasses import dataclass

from pemlo.core.errors import InputError
from pemlo.core.frames import stepped
from pemlo.core.project.names import one_line
from pemlo.core.project.project import Project
from pemlo.core.project.shots import Shot

_FIELD = re.compile(r"\{\{|\}\}|\{(\w*)\}|[{}]")


@dataclass(frozen=True)
class Piece:
    """Frames of a shot that one machine renders; all of them, on no machine in particular, unless said.

    Attributes
    ----------
    shot : Shot
    first, last : int
    machine : str
    """

    shot: Shot
    first: int
    last: int
    machine: str = ""


def whole_shot(shot: Shot) -> tuple[Piece, ...]:
    """Return all of a shot, a piece for each of its ranges, with handles; of one that stands still its one frame."""
    return tuple(Piece(shot, first, last) for first, last in shot.parts_to_render(shot.settings))


def whole_shots(project: Project) -> tuple[Piece, ...]:
    """Return the pieces of all shots."""
    return tuple(piece for shot in project.shots for piece in whole_shot(shot))


FIELDS: dict[str, Callable[[Project, Piece], str]] = {
    "shot": lambda _, piece: piece.shot.name,
    "first": lambda _, piece: str(piece.first),
    "last": lambda _, piece: str(piece.last),
    "step": lambda _, piece: str(piece.shot.step * piece.shot.settings.frame_step),
    "frames": lambda _, piece: str(len(stepped(
        piece.first, piece.last, piece.shot.step * piece.shot.settings.frame_step))),
    "samples": lambda _, piece: str(piece.shot.settings.samples),
    "threshold": lambda _, piece: f"{piece.shot.settings.noise_threshold or 0:g}",
    "denoise": lambda _, piece: piece.shot.settings.denoise,
    "width": lambda project, piece: str(project.size_of(piece.shot)[0]),
    "height": lambda project, piece: str(project.size_of(piece.shot)[1]),
    "percent": lambda _, piece: f"{piece.shot.settings.resolution_percent:g}",
    "camera": lambda _, piece: piece.shot.cameras[0] if piece.shot.cameras else "",
    "machine": lambda _, piece: piece.machine,
    "pattern": lambda project, piece: piece.shot.place or project.watching.place,
}  # fmt: skip
_NUMBERS = ("first", "last", "step", "frames", "samples", "threshold", "width", "height", "percent")


def check_template(template: str) -> None:
    """Refuse a template that cannot be filled in.

    Raises
    ------
    InputError
        If it is empty, has a field that is none, an open brace, or a field where a shell would read more than one
        argument in it: inside of quotes, of a substitution or of a comment.
    """
    if not template.strip():
        raise InputError("The template is empty.", "Write it like: render {shot} -s {first} -e {last}.")
    if "\n" in template or "\r" in template:
        raise InputError("A template is one line.", "One command is made of it for each shot.")
    for match in _FIELD.finditer(template):
        if match[0] in ("{{", "}}"):
            continue
        if match[1] is None:
            raise InputError("A brace in the template is no field.", "Write {{ or }} for a brace itself.")
        if match[1] not in FIELDS:
            raise InputError(f"“{match[0]}” is no field.", f"There are {', '.join(FIELDS)}.")
        place, todo = _unsafe_place(template[: match.start()])
        if place:
            raise InputError(f"{match[0]} stands {place}.", todo)


def _unsafe_place(before: str) -> tuple[str, str]:
    """Return where a field behind a text stands, and what to do, if a shell would not take it as one argument there."""
    open_, at, word = "", 0, False
    while at < len(before):
        one = before[at]
        if one == "\\" and open_ != "'":
            if at + 1 == len(before):
                return "behind a backslash", "Leave it out: each value is quoted as it needs."
            at, word = at + 2, True
            continue
        if one in "'\"" and open_ in ("", one):
            open_ = "" if open_ else one
        elif open_ != "'" and (one == "`" or before.startswith(("$(", "${", "$'", '$"', "<<"), at)):
            return "behind a substitution of the shell", "Put values as they are: render {shot} -s {first}."
        elif one == "#" and not open_ and not word:
            return "in a comment of the shell", "Take out the #."
        word = bool(open_) or not (one.isspace() or one in ";&|()<>")
        at += 1
    if open_:
        return "inside of quotes", "Leave them out: each value is quoted as it needs."
    if before.endswith("$"):
        return "behind a $", "Leave it out: each value is quoted as it needs."
    return "", ""


def _argument(field: str, text: str, piece: Piece) -> str:
    """Return a value that is one argument; numbers may begin with a minus, names would be taken for options."""
    where = f"The {field} of shot {piece.shot.name}"
    try:
        one_line(text)
    except ValueError as error:
        raise InputError(f"{where} {error}.") from error
    if text.startswith("-") and field not in _NUMBERS:
        raise InputError(
            f"{where} begins with “-” ({text[:40]}): a program would take it for an option.", "Give it another name."
        )
    return text


def command_line(template: str, project: Project, piece: Piece) -> str:
    """Return a template filled in for a piece.

    Parameters
    ----------
    template : str
        With fields in braces, such as ``render {shot} -s {first} -e {last}``; ``{{`` and ``}}`` are braces.
    project : Project
    piece : Piece

    Raises
    ------
    InputError
        If the template cannot be filled in.

    Examples
    --------
    >>> from pemlo.core.project.delivery import Delivery
    >>> film = Project(title="x", start="2031-01-01T00:00Z", delivery=Delivery(deadline="2031-01-02T00:00Z"))
    >>> shot = Shot(name="night 2", first=1, last=9, asked={"samples": 64})
    >>> command_line("render {shot} -f {first}..{last}", film, Piece(shot, 1, 9))
    "render 'night 2' -f 1..9"
    """
    check_template(template)

    def value(match: re.Match[str]) -> str:
        if match[0] in ("{{", "}}"):
            return match[0][0]
        return shlex.quote(_argument(match[1], FIELDS[match[1]](project, piece), piece))

    return _FIELD.sub(value, template)
