"""Command lines from somebody's own template: fields in braces, each value quoted for the shell. Never run. Pure text.

A value is put in as one argument, whatever it holds: a shell reads back what was meant, and nothing else.
"""

import re
import shlex
from collections.abc import Callable
from dataclasses import dataclass

from pemlo.core.errors import InputError
from pemlo.core.frames import stepped
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


def whole_shot(shot: Shot) -> Piece:
    """Return all of a shot, with its handles; of one that stands still its one frame."""
    return Piece(shot, *shot.range_to_render(shot.settings))


def whole_shots(project: Project) -> tuple[Piece, ...]:
    """Return a piece for each shot."""
    return tuple(whole_shot(shot) for shot in project.shots)


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


def check_template(template: str) -> None:
    """Refuse a template that cannot be filled in.

    Raises
    ------
    InputError
        If it is empty, has a field that is none, an open brace, or a field inside of quotes.
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
        before = template[: match.start()]
        if _open_quote(before):
            raise InputError(
                f"{match[0]} stands inside of quotes.", "Leave them out: each value is quoted as it needs."
            )


def _open_quote(text: str) -> bool:
    """Whether a text ends inside of quotes, or behind a backslash."""
    open_ = ""
    at = 0
    while at < len(text):
        one = text[at]
        if one == "\\" and open_ != "'":
            at += 2
            if at > len(text):
                return True
            continue
        if one in "'\"" and open_ in ("", one):
            open_ = "" if open_ else one
        at += 1
    return bool(open_)


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
        return shlex.quote(FIELDS[match[1]](project, piece))

    return _FIELD.sub(value, template)
