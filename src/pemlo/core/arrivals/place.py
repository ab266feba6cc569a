"""Where frames lie: a pattern of folders and names with fields for shot, frame, layer and take. Pure text."""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

from pemlo.core.project.names import LONGEST_NAME

FIELDS = ("shot", "frame", "layer", "take")
MOST_DIGITS = 12  # of a frame, more than which no shot has
_FIELD = re.compile(r"\{(\w{1,40})(?::0?(\d{1,30}))?\}")
_HINT = "write it like renders/{shot}/{shot}.{frame:04}.exr"


@dataclass(frozen=True)
class FrameName:
    """What a name says: the shot, the frame, and the layer and the take if it has them."""

    shot: str
    frame: int
    layer: str = ""
    take: str = ""


@dataclass(frozen=True)
class FramePlace:
    """A pattern such as ``renders/{shot}/{shot}.{frame:04}.exr``.

    A field that stands in it twice is the same in both places. A number after a colon says how many digits a frame has
    at least; longer numbers have more of them.

    Attributes
    ----------
    pattern : str
    """

    pattern: str

    @property
    def parts(self) -> tuple[str, ...]:
        """The pattern, folder by folder, the file last."""
        return tuple(part for part in self.pattern.replace("\\", "/").split("/") if part not in ("", "."))

    @cached_property
    def readers(self) -> tuple[re.Pattern[str], ...]:
        """For each part: what matches its names."""
        return tuple(re.compile(_expression(part, {})) for part in self.parts)

    def read_part(self, number: int, name: str, known: Mapping[str, str]) -> dict[str, str] | None:
        """Return what the fields are after a name of a part was read; None if it does not match.

        Parameters
        ----------
        number : int
            Which part.
        name : str
            Of the folder or the file.
        known : mapping
            What the parts above say.
        """
        match = self.readers[number].fullmatch(name)
        if match is None:
            return None
        found = dict(known)
        for field, value in match.groupdict().items():
            # The same field in another part must say the same; of frames, the same number.
            if field in found and not _same(field, found[field], value):
                return None
            found[field] = value
        return found

    def read(self, path: str) -> FrameName | None:
        """Return what a path says, relative to where the pattern begins; None if it does not match.

        Examples
        --------
        >>> place_of("renders/{shot}/{shot}.{frame:04}.exr").read("renders/070/070.0012.exr")
        FrameName(shot='070', frame=12, layer='', take='')
        """
        names = [part for part in path.replace("\\", "/").split("/") if part not in ("", ".")]
        if len(names) != len(self.parts):
            return None
        known: dict[str, str] = {}
        for number, name in enumerate(names):
            fields = self.read_part(number, name, known)
            if fields is None:
                return None
            known = fields
        return found_of(known)

    def path(self, frame_name: FrameName) -> str:
        """Return the path of a frame.

        Examples
        --------
        >>> place_of("{shot}.{frame:04}.exr").path(FrameName("070", -3))
        '070.-0003.exr'
        """

        def value(match: re.Match[str]) -> str:
            field, digits = match[1], int(match[2] or 1)
            if field == "frame":
                return f"{'-' if frame_name.frame < 0 else ''}{abs(frame_name.frame):0{digits}d}"
            return str(getattr(frame_name, field))

        return "/".join(_FIELD.sub(value, part) for part in self.parts)


_MARKS = re.compile(r"(%0?(\d{1,2})?d)|#{1,9}|@{1,9}")


def found_of(fields: Mapping[str, str]) -> FrameName:
    """Return what fields say."""
    return FrameName(fields.get("shot", ""), int(fields["frame"]), fields.get("layer", ""), fields.get("take", ""))


def with_frame_field(pattern: str) -> str:
    """Return a pattern with its frame as a field, where it is written as marks or as printf does (ISO/IEC 9899).

    Examples
    --------
    >>> with_frame_field("shot.####.exr"), with_frame_field("a_%04d.png"), with_frame_field("b.@@@.exr")
    ('shot.{frame:04}.exr', 'a_{frame:04}.png', 'b.{frame:03}.exr')
    >>> with_frame_field("%d.exr"), with_frame_field("{shot}.{frame:04}.exr"), with_frame_field("version #2/x.##.exr")
    ('{frame}.exr', '{shot}.{frame:04}.exr', 'version #2/x.{frame:02}.exr')
    """
    folder, slash, name = pattern.rpartition("/")
    if "{frame" in name:
        return pattern
    found = list(_MARKS.finditer(name))
    if not found:
        return pattern
    last = found[-1]  # the frame stands last
    digits = int(last[2] or 1) if last[1] else len(last[0])
    field = "{frame}" if digits == 1 and last[1] else f"{{frame:{digits:02d}}}"
    return f"{folder}{slash}{name[: last.start()]}{field}{name[last.end() :]}"


def place_of(pattern: str) -> FramePlace:
    """Read a pattern, with its frame as a field or as people write it elsewhere, see `with_frame_field`.

    Raises
    ------
    ValueError
        If it has no frame, or a field that is unknown.
    """
    text = with_frame_field(pattern.strip())
    named = [match[1] for match in _FIELD.finditer(text)]
    unknown = [name for name in named if name not in FIELDS]
    if unknown:
        raise ValueError(f"“{{{unknown[0]}}}” is not a field of a place; there are {', '.join(FIELDS)}; {_HINT}")
    wide = [match[2] for match in _FIELD.finditer(text) if match[2] and int(match[2]) > MOST_DIGITS]
    if wide:
        raise ValueError(f"a frame has {MOST_DIGITS} digits at most, not {wide[0]}; {_HINT}")
    if re.search(r"[{}]", _FIELD.sub("", text)):
        raise ValueError(f"“{text}” has a brace that is no field; {_HINT}")
    place = FramePlace(text)
    if not place.parts or all(match[1] != "frame" for match in _FIELD.finditer(place.parts[-1])):
        raise ValueError(f"“{text}” has no {{frame}} in its file name; {_HINT}")
    return place


def _expression(part: str, seen: dict[str, str]) -> str:
    """Return a regular expression for the names of a part."""
    made, at = "", 0
    for match in _FIELD.finditer(part):
        made += re.escape(part[at : match.start()])
        field, digits = match[1], int(match[2] or 1)
        if field in seen:
            made += f"(?P={field})"
        elif field == "frame":
            made += rf"(?P<frame>-?\d{{{digits},{MOST_DIGITS}}})"
        else:
            made += f"(?P<{field}>.{{1,{LONGEST_NAME}}}?)"
        seen[field] = part
        at = match.end()
    return made + re.escape(part[at:])


def _same(field: str, one: str, other: str) -> bool:
    return int(one) == int(other) if field == "frame" else one == other
