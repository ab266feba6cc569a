"""Fills a person's command in for one frame: words without a shell, each value in one word. Never runs it. Pure text.

A value cannot become an option, a second word or an order to a shell, whatever a shot, a scene or a file is called.
"""

import re
import shlex
from collections.abc import Collection
from dataclasses import dataclass, field
from typing import Any

from pemlo.core.errors import InputError, Problem
from pemlo.core.project.names import one_line
from pemlo.core.project.render_ways import ANY, FIELDS, NONE, SAID_FIELDS, FieldName, RenderWay, SaidField
from pemlo.core.project.settings import NO_DENOISE, ONE_RAY_EACH, FrameSettings, LeverName
from pemlo.core.project.timed_sizes import rendered_size

Region = tuple[int, int, int, int]
_FIELD = re.compile(r"\{\{|\}\}|\{(\w{0,40})(?::(0?\d{1,2}))?\}|[{}]")
_NUMBERS = ("frame", "samples", "threshold", "min_samples", "width", "height", "percent", "seed", "saves", "way_value")
_FREE_WORDS = ("shot", "scene", "camera", "denoise", "keep", "switches", "way", "machine")
PICTURE_ENDING = ".exr"
# Which field of a command reaches which lever. Size is reached by a percentage, or by both sides.
_REACH: dict[LeverName, tuple[FieldName, ...]] = {
    "samples": ("samples",),
    "noise_threshold": ("threshold",),
    "min_samples": ("min_samples",),
    "most_seconds": ("time_limit",),
    "split": ("split",),
    "denoise": ("denoise",),
    "keep": ("keep",),
    "switches": ("switches",),
    "saves": ("saves",),
}


@dataclass(frozen=True)
class FrameTask:
    """A frame to render: of which shot, how, and which part of it.

    Attributes
    ----------
    shot, scene, camera : str
        The scene is what the shot's column says; both may be empty.
    frame : int
    size : tuple of int
        Of the whole frame at 100 %, px.
    settings : FrameSettings
    region : tuple of int, optional
        Left, top, right and bottom edge in px of the frame at 100 %.
    seed : int
    repeat : int
        Which time it is that the same is rendered again, from 0.
    """

    shot: str
    frame: int
    size: tuple[int, int]
    settings: FrameSettings
    scene: str = ""
    camera: str = ""
    region: Region | None = None
    seed: int = 0
    repeat: int = 0

    @property
    def rendered_size(self) -> tuple[int, int]:
        """Width and height as rendered, px."""
        return rendered_size(self.size, self.settings.resolution_percent)


@dataclass(frozen=True)
class FilledCommand:
    """A command for one frame: its words, where it runs, and the picture that it must leave.

    Attributes
    ----------
    words : tuple of str
        The program first. With a shell they are the shell's.
    folder : str
        Empty for the root of the disk.
    environment : tuple of (str, str)
    picture : str
        Path.
    """

    words: tuple[str, ...]
    folder: str
    environment: tuple[tuple[str, str], ...] = field(default=())
    picture: str = ""

    @property
    def line(self) -> str:
        """The command as a shell would take it, to be shown."""
        return shlex.join(self.words)


def fields_in(way: RenderWay) -> frozenset[FieldName]:
    """Return the fields that a way's command and what is said with it hold."""
    texts = [way.command, *(one.prefix for one in way.machines), *(value for _, value in way.environment)]
    named = {match[1] for text in texts for match in _FIELD.finditer(text) if match[1]}
    return frozenset(name for name in FIELDS if name in named)


def shell_word(text: str) -> str:
    """Return a text as one word of a command, with nothing in it taken for a field."""
    return shlex.quote(text.replace("{", "{{").replace("}", "}}"))


def check_way(way: RenderWay) -> None:
    """Refuse a way that cannot be filled in.

    Raises
    ------
    InputError
        If a field is unknown, a brace is none, quotes are left open, or nothing says which frame and where it goes.
    """
    problems = []
    for text in (way.command, way.picture, *(one.prefix for one in way.machines), *(v for _, v in way.environment)):
        problems += _wrong_braces(text)
    for saying in way.sayings:
        for words in (saying.words, saying.otherwise):
            problems += _wrong_braces(words, ("value",))
            problems += _open_quotes(words)
    for text in (way.command, *(one.prefix for one in way.machines)):
        problems += [] if way.shell else _open_quotes(text)
    named = fields_in(way)
    if "frame" not in named:
        problems.append(Problem("Command", "does not say which frame: put {frame} where its number goes"))
    if "out" not in named and not _has(way.picture, "frame"):
        problems.append(Problem("Command", "does not say where the picture goes: put {out} where its name goes"))
    if way.at_once > 1 and "out" not in named and not _has(way.picture, "out"):
        words = "puts the same frame at the same place each time: render one frame at once, or put {out} into it"
        problems.append(Problem("Command", words))
    if problems:
        raise InputError(problems, f"Fields are {', '.join('{' + name + '}' for name in FIELDS)}.")


def _wrong_braces(text: str, allowed: Collection[str] = FIELDS) -> list[Problem]:
    found = []
    for match in _FIELD.finditer(text):
        if match[0] in ("{{", "}}"):
            continue
        if match[1] is None:
            found.append(Problem("Command", "a brace in it is no field; write {{ or }} for a brace itself"))
        elif match[1] not in allowed:
            found.append(Problem("Command", f"“{match[0]}” is no field"))
    return found


def _open_quotes(text: str) -> list[Problem]:
    try:
        shlex.split(text)
    except ValueError:
        return [Problem("Command", f"a quote is left open in “{text[:60]}”")]
    return []


def _has(text: str, name: str) -> bool:
    return any(match[1] == name for match in _FIELD.finditer(text))


def unreachable(way: RenderWay) -> tuple[LeverName, ...]:
    """Return the levers that a way's command cannot set: trials leave them as the scene has them.

    Examples
    --------
    >>> unreachable(RenderWay(name="main", command="render -f {frame} -s {samples} -p {percent} -o {out}"))
    ('noise_threshold', 'min_samples', 'most_seconds', 'split', 'denoise', 'keep', 'switches', 'saves')
    """
    named = fields_in(way)
    missing: list[LeverName] = [lever for lever, fields in _REACH.items() if not named & set(fields)]
    sized = "percent" in named or {"width", "height"} <= named
    return tuple(missing) if sized else (*missing, "resolution_percent")


def as_reachable(way: RenderWay, settings: FrameSettings, asked: FrameSettings) -> FrameSettings:
    """Return settings in which every lever that the way cannot set stands as asked: as the scene has it."""
    fields: dict[str, Any] = settings.frame_fields()
    fields |= {lever: getattr(asked, lever) for lever in unreachable(way)}
    if "way" not in fields_in(way):
        fields |= {"way": asked.way, "way_value": asked.way_value}
    least = fields["min_samples"]
    if least is not None and (fields["noise_threshold"] is None or least > fields["samples"]):
        fields["min_samples"] = None
    return FrameSettings.model_validate(fields)


def filled(way: RenderWay, task: FrameTask, out: str, machine: str = "") -> FilledCommand:
    """Fill a way in for one frame.

    Parameters
    ----------
    way : RenderWay
    task : FrameTask
    out : str
        Path of the picture without its ending, in a folder of its own.
    machine : str
        Which of the way's machines; the command as it is if none is named.

    Raises
    ------
    InputError
        If the way cannot be filled in.

    Examples
    --------
    >>> way = RenderWay(name="main", command="render {scene} -f {frame:04} -s {samples} -o {out}")
    >>> task = FrameTask("010", 7, (1920, 1080), FrameSettings(samples=64), scene="quay 2")
    >>> filled(way, task, "/tmp/a").line
    "render 'quay 2' -f 0007 -s 64 -o /tmp/a.exr"
    """
    check_way(way)
    values = _values(way, task, out, machine)
    prefix = next((one.prefix for one in way.machines if one.machine == machine), "")
    picture = _picture(way, values, out)
    values = {**values, "out": out if _names_itself(way) else picture}
    if way.shell:
        text = " ".join(_in_shell(part, way, task, values) for part in (prefix, way.command) if part)
        words: tuple[str, ...] = ("/bin/sh", "-c", text)
    else:
        words = tuple(
            word
            for part in (prefix, way.command)
            for one in shlex.split(part)
            for word in _word(one, way, task, values)
        )
    environment = tuple((name, _plain(value, values)) for name, value in way.environment)
    return FilledCommand(words, _plain(way.folder, values), environment, picture)


def _names_itself(way: RenderWay) -> bool:
    """Whether the renderer makes its own file name of what it is given."""
    return _has(way.picture, "out")


def _picture(way: RenderWay, values: dict[str, str], out: str) -> str:
    if way.picture.startswith(".") and "{" not in way.picture:
        return out + way.picture
    return _plain(way.picture, {**values, "out": out}) if way.picture else out + PICTURE_ENDING


def _values(way: RenderWay, task: FrameTask, out: str, machine: str) -> dict[str, str]:
    settings, named = task.settings, fields_in(way)
    # Without a percentage, the sides are those of the picture as it is rendered.
    sides = task.size if "percent" in named else task.rendered_size
    edges = task.region or (0, 0, *task.size)
    values = {
        "shot": task.shot,
        "scene": task.scene,
        "camera": task.camera,
        "frame": str(task.frame),
        "samples": str(settings.samples),
        "threshold": f"{settings.noise_threshold or 0:g}",
        "min_samples": str(settings.least_samples),
        "width": str(sides[0]),
        "height": str(sides[1]),
        "percent": f"{settings.resolution_percent:g}",
        "region": ",".join(map(str, edges)),
        "denoise": settings.denoise,
        "keep": ",".join(settings.keep),
        "switches": ", ".join(settings.switches) or NONE,
        "split": ",".join(map(str, settings.split)),
        "saves": str(settings.saves),
        "time_limit": f"{settings.most_seconds or 0:g}",
        "way": settings.way,
        "way_value": "" if settings.way_value is None else f"{settings.way_value:g}",
        "seed": str(task.seed),
        "machine": machine,
        "out": out,
    }
    for name, text in values.items():
        where = f"The {name} of shot {task.shot}"
        try:
            one_line(text)
        except ValueError as error:
            raise InputError(f"{where} {error}.") from error
        if name in named and name in _FREE_WORDS and text.startswith("-"):
            raise InputError(f"{where} begins with “-” ({text[:40]}): a program would take it for an option.")
    return values


def _key(name: SaidField, task: FrameTask) -> str:
    """Return the value of a field as it stands in the table of sayings."""
    settings = task.settings
    keys: dict[SaidField, str] = {
        "denoise": settings.denoise,
        "keep": " ".join(settings.keep) or NONE,
        "threshold": NONE if settings.noise_threshold is None else f"{settings.noise_threshold:g}",
        "min_samples": NONE if settings.noise_threshold is None else str(settings.least_samples),
        "region": NONE if task.region is None else ",".join(map(str, task.region)),
        "split": NONE if settings.split == ONE_RAY_EACH else ",".join(map(str, settings.split)),
        "time_limit": NONE if settings.most_seconds is None else f"{settings.most_seconds:g}",
        "way": settings.way or NONE,
    }
    return keys[name]


def _said(name: str, way: RenderWay, task: FrameTask, values: dict[str, str]) -> list[str] | None:
    """Return the words that stand for a field; None where its value stands for itself."""
    if name == "switches":
        return _switches(way, task)
    if name not in SAID_FIELDS or name == "switch":
        return None
    said: SaidField = next(one for one in SAID_FIELDS if one == name)
    key = _key(said, task)
    words = way.words_for(said, key)
    if words is None:
        if name == "denoise" and key not in (NO_DENOISE, "") and _lists(way, "denoise"):
            raise InputError(
                [Problem(f"Way {way.name}", f"does not say how to denoise by “{key}”")], "Add it to its table."
            )
        return None
    return [one.replace("{value}", values[name]) for one in shlex.split(words)]


def _lists(way: RenderWay, name: SaidField) -> bool:
    return any(saying.field == name and saying.value != NONE for saying in way.sayings)


def _switches(way: RenderWay, task: FrameTask) -> list[str] | None:
    table = [saying for saying in way.sayings if saying.field == "switch"]
    if not table:
        return None
    known = {saying.value for saying in table}
    strange = [name for name in task.settings.switches if name not in known]
    if strange and ANY not in known:
        raise InputError(
            [Problem(f"Way {way.name}", f"does not say how “{strange[0]}” is switched on")], "Add it to its table."
        )
    words = []
    for saying in table:
        on = saying.value in task.settings.switches
        words += shlex.split(saying.words if on else saying.otherwise)
    return words


def _word(word: str, way: RenderWay, task: FrameTask, values: dict[str, str]) -> list[str]:
    """Return what becomes of one word of the command: a field alone may become several words, or none."""
    alone = _FIELD.fullmatch(word)
    if alone is not None and alone[1]:
        said = _said(alone[1], way, task, values)
        if said is not None:
            return said
    return [_put_in(word, way, task, values)]


def _put_in(word: str, way: RenderWay, task: FrameTask, values: dict[str, str]) -> str:
    def value(match: re.Match[str]) -> str:
        if not match[1]:
            return match[0][0]
        said = _said(match[1], way, task, values)
        if said is None:
            return _padded(values[match[1]], match)
        if len(said) > 1:
            raise InputError(
                [Problem(f"Way {way.name}", f"says {match[0]} in several words inside of “{word}”")],
                "Let the field stand alone, with spaces around it.",
            )
        return "".join(said)

    return _FIELD.sub(value, word)


def _in_shell(text: str, way: RenderWay, task: FrameTask, values: dict[str, str]) -> str:
    """Return a command for a shell: each value is quoted, so that nothing in it is an order."""

    def value(match: re.Match[str]) -> str:
        if not match[1]:
            return match[0][0]
        said = _said(match[1], way, task, values)
        return shlex.quote(_padded(values[match[1]], match)) if said is None else shlex.join(said)

    return _FIELD.sub(value, text)


def _plain(text: str, values: dict[str, str]) -> str:
    return _FIELD.sub(lambda match: _padded(values[match[1]], match) if match[1] else match[0][0], text)


def _padded(value: str, match: re.Match[str]) -> str:
    digits = match[2]
    if not digits or match[1] not in _NUMBERS:
        return value
    sign, number = ("-", value[1:]) if value.startswith("-") else ("", value)
    return sign + number.zfill(int(digits) - len(sign))
