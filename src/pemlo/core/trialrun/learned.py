"""Makes a template of one command that rendered a frame: which words are the frame, the samples, the picture. Pure.

A word that is a number of the shot, behind an option whose name says as much, is taken for it; what could be several
things is left, for the person to mark.
"""

import re
import shlex
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import PurePath

from pemlo.core.errors import InputError
from pemlo.core.files.header import PICTURE_ENDINGS
from pemlo.core.project.project import Project
from pemlo.core.project.render_ways import FieldName
from pemlo.core.project.scenes import scene_of
from pemlo.core.project.shots import Shot

_NUMBER = re.compile(r"-?\d{1,9}(?:\.\d{1,9})?")
_SIZE = re.compile(r"(\d{2,6})([x×,])(\d{2,6})")
_REGION = re.compile(r"\d{1,6}(?:,\d{1,6}){3}")
# Words of options, of English and not of any program. The first that stands in an option's name decides.
_HINTS: tuple[tuple[FieldName, tuple[str, ...]], ...] = (
    ("min_samples", ("minsample", "leastsample", "samplesmin", "minspp")),
    ("samples", ("sample", "spp", "passes")),
    ("threshold", ("threshold", "noise", "variance", "tolerance")),
    ("percent", ("percent", "scale")),
    ("width", ("width", "xres")),
    ("height", ("height", "yres")),
    ("region", ("region", "crop", "window")),
    ("seed", ("seed",)),
    ("denoise", ("denoise", "clean")),
    ("time_limit", ("timelimit", "maxtime", "seconds")),
    ("camera", ("camera",)),
    ("frame", ("frame", "start", "end", "first", "last")),
    ("out", ("out", "output", "image", "picture", "render", "save")),
)
_SHORT: dict[str, FieldName] = {"f": "frame", "s": "samples", "o": "out", "w": "width", "h": "height"}


@dataclass(frozen=True)
class LearnedWord:
    """A piece of the command that became a field: where it stood, what it was, and why it was taken so."""

    word: str
    field: FieldName
    why: str


@dataclass(frozen=True)
class LearnedCommand:
    """A template, with what was recognised and which numbers were not.

    Attributes
    ----------
    command : str
    picture : str
        How the file is called, as `RenderWay.picture` says it; empty for the usual.
    words : tuple of LearnedWord
    unknown : tuple of str
        Numbers that are nothing known: for the person to mark.
    """

    command: str
    picture: str
    words: tuple[LearnedWord, ...]
    unknown: tuple[str, ...]


def learned(pasted: str, project: Project) -> LearnedCommand:
    """Make a template of a command that rendered a frame of the project.

    Raises
    ------
    InputError
        If it is empty or a quote is left open.

    Examples
    --------
    >>> from pemlo.core.project.delivery import Delivery
    >>> film = Project(title="x", start="2031-01-01T00:00Z", delivery=Delivery(deadline="2031-01-02T00:00Z"))
    >>> made = learned("draw quay.scn --frame 12 --spp 64 --out /tmp/quay.0012.exr", film)
    >>> made.command
    'draw quay.scn --frame {frame} --spp {samples} --out {out}'
    """
    text = " ".join(part.strip().removesuffix("\\").strip() for part in pasted.splitlines())
    try:
        words = shlex.split(text)
    except ValueError as error:
        raise InputError("A quote is left open in the command.", "Paste it whole.") from error
    if not words:
        raise InputError("There is no command.", "Paste one that rendered a frame.")
    known = _known_numbers(words, project)
    made, found, unknown, picture = [words[0]], [], [], ""
    for number in range(1, len(words)):
        word, before = words[number], words[number - 1]
        option, equals, value = word.partition("=")
        if equals and option.startswith("-"):
            lead, seen, hint = f"{option}=", value, _hinted(option)
        else:
            lead, seen, hint = "", word, _hinted(before) if before.startswith("-") else None
        field, why, new = _taken(seen, hint, project, known)
        if field is None and _NUMBER.fullmatch(seen):
            unknown.append(word)
        if field is not None:
            found.append(LearnedWord(word, field, why))
            picture = _ending(seen) if field == "out" else picture
        made.append(lead + (new if field is not None else _braced(seen)))
    return LearnedCommand(_joined(made), picture, tuple(found), tuple(unknown))


def _joined(words: Sequence[str]) -> str:
    """Join words so that they are split into the same again; braces need no quotes."""
    return " ".join(word if re.fullmatch(r"[\w{}:=./,@%+-]+", word) else shlex.quote(word) for word in words)


def _braced(word: str) -> str:
    return word.replace("{", "{{").replace("}", "}}")


def _hinted(option: str) -> FieldName | None:
    plain = "".join(one for one in option.lower() if one.isalnum())
    if plain in _SHORT:
        return _SHORT[plain]
    return next((name for name, hints in _HINTS if any(hint in plain for hint in hints)), None)


def _known_numbers(words: Sequence[str], project: Project) -> dict[str, tuple[FieldName, str]]:
    """Return which field a number without an option is: sizes and samples of the film, the frame of the picture."""
    known: dict[str, tuple[FieldName, str]] = {}
    for word in words:
        name = PurePath(word.rpartition("=")[2])
        if name.suffix.lower() in PICTURE_ENDINGS:
            digits = re.findall(r"(?<!\d)\d{1,9}(?!\d)", name.stem)[-1:]
            known |= {
                spelled: ("frame", "the picture's name has it") for one in digits for spelled in (one, str(int(one)))
            }
    for shot in project.shots:
        width, height = project.size_of(shot)
        known |= {str(width): ("width", "the film is as wide"), str(height): ("height", "the film is as high")}
        known.setdefault(str(shot.asked.samples), ("samples", f"shot {shot.name} asks for it"))
    return known


def _taken(
    word: str, hint: FieldName | None, project: Project, known: dict[str, tuple[FieldName, str]]
) -> tuple[FieldName | None, str, str]:
    """Return which field a word is, why, and what stands in its place."""
    by_shot = _of_shots(word, project)
    field = hint if hint is not None and _could_be(word, hint) else None
    why = "its option says so"
    if field is None and hint is None:
        field, why = known.get(word, by_shot)
    if field is None and hint is None and PurePath(word).suffix.lower() in PICTURE_ENDINGS:
        field, why = "out", "it is the name of a picture"
    if field is None:
        size = _SIZE.fullmatch(word)
        if size is not None:
            return "width", "it is a size, width and height", f"{{width}}{size[2]}{{height}}"
        if _REGION.fullmatch(word):
            return "region", "it is four edges", "{region}"
        return None, "", word
    digits = len(word) if field == "frame" and word.startswith("0") and len(word) > 1 else 0
    return field, why, f"{{frame:{digits:02d}}}" if digits else f"{{{field}}}"


def _could_be(word: str, field: FieldName) -> bool:
    if field in ("frame", "samples", "min_samples", "width", "height", "seed"):
        return word.lstrip("-").isdecimal()
    if field in ("threshold", "percent", "time_limit"):
        return _NUMBER.fullmatch(word) is not None
    if field == "region":
        return _REGION.fullmatch(word) is not None
    if field == "out":
        return not word.startswith("-") and not word.isdecimal()
    return not word.startswith("-")


def _of_shots(word: str, project: Project) -> tuple[FieldName | None, str]:
    """Return what a word without an option is, by the shots: a scene, a camera, or the name of a shot."""
    for shot in project.shots:
        field = _of_shot(word, shot)
        if field is not None:
            return field, f"shot {shot.name} has it"
    return None, ""


def _of_shot(word: str, shot: Shot) -> FieldName | None:
    if word == scene_of(shot):
        return "scene"
    if word in shot.cameras:
        return "camera"
    return "shot" if word == shot.name and not word.isdecimal() else None


def _ending(path: str) -> str:
    suffix = PurePath(path).suffix
    return "" if suffix.lower() == ".exr" or not suffix else suffix
