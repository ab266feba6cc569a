"""A film in one line, as people say it: ``12 shots of 100 frames, 1920×1080, 24 fps, 256 samples, due Friday 18:00``.

Every part is looked for by itself, in any order; what is left over is said back. Pure text; the present is passed in.
"""

import re
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from pemlo.core.errors import InputError, PemloError
from pemlo.core.frames import Range, format_ranges
from pemlo.core.project.delivery import FRAME_SIZES, Delivery, rate_name
from pemlo.core.project.due import read_due
from pemlo.core.project.line_numbers import plain_numbers
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project
from pemlo.core.project.record import build
from pemlo.core.project.settings import MOST_WITH_THRESHOLD, NO_DENOISE, USUAL_SAMPLES, ShotSettings
from pemlo.core.project.shots import MOST_FRAMES, Shot
from pemlo.core.project.spelling import DENOISED
from pemlo.core.project.trials import Trial
from pemlo.core.units import counted, format_duration, parse_duration, round_figures

EXAMPLE = "12 shots of 100 frames, 1920×1080, 24 fps, 256 samples, one frame 4:02, due Friday 18:00"
MOST_SHOTS = 500
MOST_LETTERS, HIGHEST_FRAME = 500, 10_000_000
_MOST = counted(MOST_FRAMES, "frame")
# Spaces are single where these are looked for, and numbers end: no part can be read in many ways.
_WHOLE = r"\d{1,9}(?!\d)"
_NUMBER = rf"{_WHOLE}(?:\.\d{{1,9}}(?!\d))?"
_UNIT = r"(?:hours?|hrs?|h|minutes?|mins?|m|seconds?|secs?|s)"
_TOOK = rf"(?:{_WHOLE}(?::\d{{2}}){{1,2}}(?:\.\d{{1,9}})?|{_NUMBER} ?{_UNIT}(?: ?{_WHOLE} ?{_UNIT}?){{0,3}})\b"
_SIZES = {"4k": "UHD 4K", "uhd": "UHD 4K", "2160p": "UHD 4K", "1080p": "HD 1080", "hd": "HD 1080", "720p": "HD 720",
          "2k": "DCI 2K", "8k": "UHD 8K"}  # fmt: skip
_FILLERS = re.compile(
    r"\b(?:a|an|and|at|in|is|it|of|the|on|to|with|each|film|movie|animation)\b|[\s,;.·-]+", re.IGNORECASE
)


def _parts(*expressions: str) -> tuple[re.Pattern[str], ...]:
    return tuple(re.compile(expression, re.IGNORECASE) for expression in expressions)


_ONE = r"(?:frame|image|picture|still)"
_MACHINES, _PIXELS, _SIZE, _RATE, _SAMPLES, _THRESHOLD, _SHOTS = _parts(
    rf"\b({_WHOLE}) (?:machines?|computers?|workstations?)\b",
    r"\b(\d{2,6}) ?(?:[x*]|by) ?(\d{2,6})\b(?: ?(?:px|pixels))?",
    rf"\b(?:{'|'.join(_SIZES)})\b",
    rf"\b({_NUMBER}) ?(?:fps|frames (?:a|per) second)\b",
    rf"\b({_WHOLE}) ?samples?\b(?: (?:a|per) pixel)?",
    rf"\b(?:noise )?threshold ?(?:of|is|=|:)? ?({_NUMBER}|\.\d{{1,9}}(?!\d))",
    rf"\b({_WHOLE}) ?shots?\b",
)
_ABOUT = r"(?P<about>(?:about|around|roughly|circa|approximately|some|ca\.?|~|≈) ?)?"
_TIMES = rf"(?P<took>(?:{_NUMBER} ?(?:-|to) ?)?{_TOOK}(?:(?: ?, ?(?:and )?| and | ?/ ?){_TOOK}){{0,20}})"
_A_FRAME = rf"(?:a|an|per|each|/|for one|for a|for an|every) ?{_ONE}\b"
_FRAME_TOOK = _parts(
    rf"\b(?:(?:one|a|an|each|per) )?(?:test )?{_ONE} ?(?:takes|took|needs|in|is|=|:)? ?{_ABOUT}{_TIMES}",
    rf"(?:(?<=frames )|(?<=images )|(?<=pictures ))(?:take|took|need|needed) {_ABOUT}{_TIMES}",
    rf"{_ABOUT}(?<![\w.:]){_TIMES} ?{_A_FRAME}",
)
# Where nothing else said so, a time that each takes, or about so much, is that of a frame: shots of so many seconds
# each, and films of so many, are taken before.
_TOOK_EACH = _parts(rf"{_ABOUT}(?<![\w.:]){_TIMES} ?(?:each|apiece)\b", rf"{_ABOUT.rstrip('?')}(?<![\w.:]){_TIMES}")
_FROM_TO = re.compile(rf"({_NUMBER}) ?(?:-|to) ?({_TOOK})", re.IGNORECASE)
_ANY_TOOK = re.compile(_TOOK, re.IGNORECASE)
(_DENOISED,) = _parts(r"\b(?:with )?(?:a )?denois(?:ed|ing|er|e)\b")
_HALVES = tuple(
    (re.compile(rf"\bhalf an? {unit}\b", re.IGNORECASE), words)
    for unit, words in (("second", "0.5 s"), ("minute", "30 s"), ("hour", "30 min"))
)
_FRAMES_UNIT = r"(?P<unit>frames?|images?|pictures?|stills?|f|seconds?|secs?|s)\b"
_EACH = rf"(?P<each>{_NUMBER}(?: ?(?:,|and|/|\+){{1,3}} ?(?:and )?{_NUMBER}){{0,99}})"
_ONE_RANGE = rf"{_WHOLE} ?(?:-|to) ?{_WHOLE}"
_NOT_A_FRAME = (
    r"(?:fps|shots?|samples?|machines?|computers?|workstations?|frames?|images?|[x*:%.-]|by |s\b|sec|min|h\b|hours?|"
    r"days?)"
)
_MORE_RANGES = rf"(?: ?(?:,|and|\+){{1,2}} ?(?:and )?(?:{_ONE_RANGE}|{_WHOLE}(?! ?{_NOT_A_FRAME}))){{0,99}}"
_LENGTH, _COUNTED, _RANGE, _FRAMES = _parts(
    rf"\b(?P<took>{_TOOK}) ?(?:long\b|(?:of )?(?:film|movie|animation)\b|on screen)",
    rf"\b(?P<count>{_WHOLE}) ?shots? ?(?:of|with|x|,|:|at)? ?{_EACH} ?{_FRAMES_UNIT}",
    rf"\bframes? (?P<ranges>{_ONE_RANGE}{_MORE_RANGES})",
    rf"(?P<count>(?!))?\b{_EACH} ?(?P<unit>frames?|images?|pictures?|stills?)\b",
)
_UNIT_BEHIND = re.compile(rf"{_UNIT}$", re.IGNORECASE)
_TWO_ENDS = re.compile(rf"({_WHOLE})(?: ?(?:-|to) ?({_WHOLE}))?")
_EACH_NUMBER = re.compile(_NUMBER)


@dataclass(frozen=True)
class FilmLine:
    """What was understood of a line.

    Attributes
    ----------
    frames : tuple of int
        Of each shot, in their order.
    ranges : tuple of tuple of (int, int)
        Of each shot, first and last frame of each of its ranges, where they were said.
    size : tuple of int, optional
    fps : float, optional
    samples : int, optional
    threshold : float, optional
    times : tuple of float
        What frames take, s.
    guessed : bool
        Whether nobody timed that.
    denoised : bool
    deadline : datetime, optional
    machines : int, optional
    left_over : str
        What was not understood.
    problems : tuple of str
        What was understood and cannot be.
    """

    frames: tuple[int, ...] = ()
    ranges: tuple[tuple[Range, ...], ...] = ()
    size: tuple[int, int] | None = None
    fps: float | None = None
    samples: int | None = None
    threshold: float | None = None
    times: tuple[float, ...] = ()
    guessed: bool = False
    denoised: bool = False
    deadline: datetime | None = None
    machines: int | None = None
    left_over: str = ""
    problems: tuple[str, ...] = ()

    @property
    def enough(self) -> bool:
        """Whether a film can be made of it."""
        return bool(self.frames) and not self.problems


@dataclass
class _Reader:
    """Takes parts out of a text, one after another."""

    text: str
    now: datetime
    timezone: str
    found: dict[str, Any] = field(default_factory=dict)
    problems: list[str] = field(default_factory=list)

    def take(self, pattern: re.Pattern[str], use: Callable[[re.Match[str]], None]) -> bool:
        match = pattern.search(self.text)
        if match is None:
            return False
        try:
            use(match)
        except PemloError as error:
            self.problems.append(error.message)
        except ValueError as error:
            self.problems.append(f"{str(error)[:1].upper()}{str(error)[1:]}.")
        self.text = _without(self.text, *match.span())
        return True


def _without(text: str, begin: int, end: int) -> str:
    return f"{text[:begin].rstrip()} , {text[end:].lstrip()}"


def read_film_line(text: str, now: datetime, timezone: str) -> FilmLine:
    """Read a film in one line; nothing is refused, what is wrong or not understood is said.

    Parameters
    ----------
    text : str
    now : datetime
        With a zone: days of the week are those that come next.
    timezone : str
        IANA name, in which the deadline is meant.

    Examples
    --------
    >>> from datetime import UTC
    >>> found = read_film_line(EXAMPLE, datetime(2031, 4, 21, 10, tzinfo=UTC), "UTC")
    >>> len(found.frames), found.frames[0], found.size, found.fps, found.samples, f"{found.deadline:%a %d %H:%M}"
    (12, 100, (1920, 1080), 24.0, 256, 'Fri 25 18:00')
    """
    if len(text) > MOST_LETTERS:
        long = f"The line has {counted(len(text), 'letter')}; at most {MOST_LETTERS} are read. Paste a table."
        return FilmLine(problems=(long,))
    words = " ".join(text.replace("×", "x").replace("–", "-").split())
    for half, said in _HALVES:
        words = half.sub(said, words)
    plain, problems = plain_numbers(words)
    reader = _Reader(plain, now, timezone, problems=list(problems))
    _deadline(reader)
    _size(reader)
    _rate(reader)
    _frame_times(reader, _FRAME_TOOK)
    _sampling(reader)
    reader.take(_DENOISED, lambda _: reader.found.__setitem__("denoised", True))
    reader.take(_MACHINES, lambda m: _count(reader, "machines", m[1], 1000))
    _shots(reader)
    if "times" not in reader.found:
        _frame_times(reader, _TOOK_EACH)
    left = _FILLERS.sub(" ", reader.text).strip()
    return FilmLine(**reader.found, left_over=left, problems=tuple(reader.problems))


def _count(reader: _Reader, name: str, text: str, most: int) -> None:
    value = int(text)
    if not value:
        raise ValueError(f"0 {name} are none")
    if value > most:
        raise ValueError(f"{text} {name} are too many; {most} at most")
    reader.found[name] = value


def _size(reader: _Reader) -> None:
    def pixels(match: re.Match[str]) -> None:
        width, height = int(match[1]), int(match[2])
        if not (1 <= width <= 65536 and 1 <= height <= 65536):
            raise ValueError(f"a picture of {width}×{height} is too large; 65536 at most")
        reader.found["size"] = width, height

    def named(match: re.Match[str]) -> None:
        name = _SIZES[match[0].lower()]
        size = next(size for size in FRAME_SIZES if size.name == name)
        reader.found["size"] = size.width, size.height

    if not reader.take(_PIXELS, pixels):
        reader.take(_SIZE, named)


def _rate(reader: _Reader) -> None:
    def use(match: re.Match[str]) -> None:
        fps = float(match[1])
        if not 0 < fps <= 1000:
            raise ValueError(f"{match[1]} frames a second cannot be; 1000 at most")
        reader.found["fps"] = fps

    reader.take(_RATE, use)


def _frame_times(reader: _Reader, patterns: tuple[re.Pattern[str], ...]) -> None:
    def use(match: re.Match[str]) -> None:
        between = _FROM_TO.fullmatch(match["took"])
        if between:
            high = parse_duration(between[2])
            low = _low_end(between[1], between[2])
            if low >= high:
                raise ValueError(f"{between[1]} to {between[2]} is no range of times")
            reader.found["times"] = low, high
        else:
            reader.found["times"] = tuple(parse_duration(one) for one in _ANY_TOOK.findall(match["took"]))
        reader.found["guessed"] = bool(match["about"])

    for pattern in patterns:
        if reader.take(pattern, use):
            return


def _low_end(low: str, high: str) -> float:
    """Return the lower end of a range of times, which is in the unit of the upper one: 16-20 s."""
    unit = _UNIT_BEHIND.search(high)
    return parse_duration(f"{low} {unit[0]}") if unit else parse_duration(low)


def _sampling(reader: _Reader) -> None:
    def samples(match: re.Match[str]) -> None:
        _count(reader, "samples", match[1], 1_000_000)

    def threshold(match: re.Match[str]) -> None:
        reader.found["threshold"] = float(match[1])
        if not 0 < float(match[1]) <= 1e6:
            raise ValueError(f"a noise threshold of {match[1]} cannot be")

    reader.take(_SAMPLES, samples)
    reader.take(_THRESHOLD, threshold)


def _shots(reader: _Reader) -> None:
    for pattern, use in ((_LENGTH, _lasting), (_COUNTED, _shots_of), (_RANGE, _range), (_FRAMES, _shots_of)):
        if reader.take(pattern, lambda match, use=use: use(reader, match)):  # type: ignore[misc]
            break
    frames = reader.found.get("frames", ())
    if "ranges" in reader.found:
        reader.take(_SHOTS, lambda match: _range_each(reader, int(match[1])))
    elif len(frames) == 1:
        reader.take(_SHOTS, lambda match: _parted(reader, int(match[1]), frames[0]))


def _rate_so_far(reader: _Reader) -> float:
    return float(reader.found.get("fps", 24.0))


def _lasting(reader: _Reader, match: re.Match[str]) -> None:
    """Take a film of so many seconds."""
    frames = round(parse_duration(match["took"]) * _rate_so_far(reader))
    if not 1 <= frames <= MOST_FRAMES:
        raise ValueError(f"{match['took']} are {counted(frames, 'frame')}; a shot has 1 to {_MOST}")
    reader.found["frames"] = (frames,)


def _range(reader: _Reader, match: re.Match[str]) -> None:
    """Take a shot by the first and last frame of each of its ranges."""
    said = [_checked_range(int(one[1]), int(one[2] or one[1])) for one in _TWO_ENDS.finditer(match["ranges"])]
    ranges: list[Range] = []
    for first, last in sorted(said):
        if ranges and first <= ranges[-1][1] + 1:
            ranges[-1] = ranges[-1][0], max(last, ranges[-1][1])
        else:
            ranges.append((first, last))
    _checked_range(ranges[0][0], ranges[-1][1])
    reader.found |= {"frames": (sum(last - first + 1 for first, last in ranges),), "ranges": (tuple(ranges),)}


def _range_each(reader: _Reader, count: int) -> None:
    """Take ranges as shots, one each, where as many are said: ``frames 1-10, 25-30 in 2 shots``."""
    (ranges,) = reader.found["ranges"]
    if count == 1:
        return
    if count != len(ranges):
        raise ValueError(f"there are {count} shots, and {counted(len(ranges), 'range')} of frames")
    reader.found |= {"frames": tuple(b - a + 1 for a, b in ranges), "ranges": tuple((one,) for one in ranges)}


def _checked_range(first: int, last: int) -> tuple[int, int]:
    if last < first:
        raise ValueError(f"the last frame ({last}) is before the first ({first})")
    if last - first >= MOST_FRAMES:
        raise ValueError(f"frames {first}–{last} are {counted(last - first + 1, 'frame')}; a shot has at most {_MOST}")
    if last > HIGHEST_FRAME:
        raise ValueError(f"frame {last} is too high; numbers go up to {round_figures(HIGHEST_FRAME, 8)}")
    return first, last


def _shots_of(reader: _Reader, match: re.Match[str]) -> None:
    """Take shots of so many frames each, or of so many seconds; one shot if it is not said how many."""
    count = 1 if match["count"] is None else _number_of_shots(int(match["count"]))
    each = [float(part) for part in _EACH_NUMBER.findall(match["each"])]
    if match["unit"].lower().startswith("s") and not match["unit"].lower().startswith("still"):
        each = [seconds * _rate_so_far(reader) for seconds in each]
    frames = [round(value) for value in each]
    if any(not 1 <= value <= MOST_FRAMES for value in frames):
        raise ValueError(f"a shot has 1 to {_MOST}")
    if len(frames) not in (1, count) and match["count"] is not None:
        raise ValueError(f"there are {count} shots, and frames of {len(frames)}")
    reader.found["frames"] = tuple(frames if len(frames) > 1 else frames * count)


def _parted(reader: _Reader, count: int, frames: int) -> None:
    """Part the frames of the film among shots: ``300 frames in 3 shots``."""
    _number_of_shots(count)
    reader.found["frames"] = tuple(max(frames // count + (k < frames % count), 1) for k in range(count))


def _number_of_shots(count: int) -> int:
    if not count:
        raise ValueError("0 shots are none")
    if count > MOST_SHOTS:
        raise ValueError(f"{count} shots in one line are too many; {MOST_SHOTS} at most, or paste a table")
    return count


def _deadline(reader: _Reader) -> None:
    try:
        deadline, (begin, end) = read_due(reader.text, reader.now, reader.timezone)
    except ValueError as error:
        reader.problems.append(f"{str(error)[:1].upper()}{str(error)[1:]}.")
        return
    if deadline is None:
        return
    reader.text = _without(reader.text, begin, end)
    reader.found["deadline"] = deadline
    if deadline <= reader.now:
        reader.problems.append(f"The deadline ({deadline:%d %b %Y %H:%M}) is over already.")


def understood(film_line: FilmLine, moment: Callable[[datetime], str]) -> tuple[tuple[str, str], ...]:
    """Return each part with what was understood, or what is assumed for it; `moment` writes a time.

    Returns
    -------
    tuple of (str, str)
        Name and text; the text of what is only assumed ends in ``assumed``.
    """
    frames, total = film_line.frames, sum(film_line.frames)
    shots = f"{len(frames)} shot{'' if len(frames) == 1 else 's'}"
    each = f" of {counted(frames[0], 'frame')}" if frames and len(set(frames)) == 1 else ""
    if len(film_line.ranges) == 1:
        each = f", frames {format_ranges(film_line.ranges[0])}"
    settings = [f"{film_line.samples or _assumed_samples(film_line)} samples"]
    if film_line.threshold is not None:
        settings = [f"threshold {film_line.threshold:g}", f"at most {settings[0]}"]
    if film_line.denoised:
        settings.append("denoised")
    rate, size = film_line.fps or 24.0, film_line.size or (1920, 1080)
    return (
        (
            "film",
            f"{shots}{each}, {counted(total, 'frame')}, {format_duration(total / rate)}"
            if frames
            else "say how many frames",
        ),
        ("size", f"{size[0]}×{size[1]}{'' if film_line.size else ', assumed'}"),
        ("rate", f"{rate_name(rate)} fps{'' if film_line.fps else ', assumed'}"),
        ("settings", f"{', '.join(settings)}{'' if film_line.samples else ', assumed'}"),
        ("due", moment(film_line.deadline) if film_line.deadline else "in a week, assumed"),
        ("machines", f"{film_line.machines or 1}, always free{'' if film_line.machines else ', assumed'}"),
        ("one frame", _times_words(film_line)),
    )


def _assumed_samples(film_line: FilmLine) -> int:
    """Return how many samples are assumed: with a threshold so many that it is the threshold that ends them."""
    return USUAL_SAMPLES if film_line.threshold is None else MOST_WITH_THRESHOLD


def _times_words(film_line: FilmLine) -> str:
    if not film_line.times:
        return "not timed yet"
    words = ", ".join(map(format_duration, film_line.times))
    return f"{words}, a guess" if film_line.guessed else words


def film_of(film_line: FilmLine, base: Project) -> Project:
    """Return a project with the film of a line in it.

    Parameters
    ----------
    film_line : FilmLine
        With enough in it.
    base : Project
        An empty project; its delivery stands in for what the line does not say.

    Raises
    ------
    InputError
        If there is not enough in the line, or the film cannot be.
    """
    if not film_line.enough:
        what = film_line.problems[0] if film_line.problems else "The line does not say how many frames there are."
        raise InputError(what, f"Write it like: {EXAMPLE}")
    asked = ShotSettings(
        samples=film_line.samples or _assumed_samples(film_line),
        noise_threshold=film_line.threshold,
        denoise=DENOISED if film_line.denoised else NO_DENOISE,
    )
    ranges = film_line.ranges or tuple(((1, count),) for count in film_line.frames)
    shots = tuple(
        build(
            Shot,
            {
                "name": f"{10 * number:03d}", "first": mine[0][0], "last": mine[-1][1],
                "ranges": mine if len(mine) > 1 else (), "asked": asked,
            },
            "Frames",
        )
        for number, mine in enumerate(ranges, 1)
    )  # fmt: skip
    delivery = {**dict(base.delivery)}
    if film_line.size is not None:
        delivery |= {"width": film_line.size[0], "height": film_line.size[1]}
    if film_line.fps is not None:
        delivery["fps"] = film_line.fps
    if film_line.deadline is not None:
        delivery["deadline"] = film_line.deadline
    machines = base.machines if film_line.machines is None else (Machine(name="reference", count=film_line.machines),)
    longest = max(shots, key=lambda shot: shot.frame_count)
    trials = tuple(
        build(
            Trial,
            {
                **asked.frame_fields(),
                "shot": longest.name,
                "frame": frame,
                "seconds": seconds,
                "repeat": repeat,
                "assumed": film_line.guessed,
            },
            "Trial",
        )
        for seconds, (frame, repeat) in zip(film_line.times, _timed_frames(longest, len(film_line.times)), strict=True)
    )
    return base.replace(delivery=build(Delivery, delivery, "Delivery"), shots=shots, machines=machines, trials=trials)


def _timed_frames(shot: Shot, times: int) -> list[tuple[int, int]]:
    """Return which frames several times are of, with how often each was timed before: spread over the shot."""
    if times == 1:
        return [(shot.middle, 0)]
    own = shot.frames
    frames = [own[int((len(own) - 1) * number / (times - 1) + 0.5)] for number in range(times)]
    return [(frame, frames[:number].count(frame)) for number, frame in enumerate(frames)]
