"""Two ways side by side, in words: lines of a card that can be copied as text. Pure."""

from dataclasses import dataclass

from pemlo.core.chances import chance_percent
from pemlo.core.interval import Interval
from pemlo.core.project.project import Project
from pemlo.core.project.settings import NO_DENOISE
from pemlo.core.project.spelling import settings_words
from pemlo.core.project.trials import Trial
from pemlo.core.trade.two_ways import TwoWays, WayNumbers
from pemlo.core.units import (
    HOUR_S,
    counted,
    format_duration,
    format_hours,
    format_interval,
    format_seconds,
    machine_hours,
    share_words,
)
from pemlo.words.verdicts import say_moment


@dataclass(frozen=True)
class Saving:
    """What is saved: share of a frame's time, below 0 where it takes more; hours over a number of frames."""

    share: float
    hours: float
    frames: int

    def __str__(self) -> str:
        word = "less" if self.share >= 0 else "more"
        took = format_duration(abs(self.hours) * HOUR_S)
        return f"{100 * abs(self.share):.0f} % {word} a frame: {took} {word} over {counted(self.frames, 'frame')}"


def saving(before_seconds: float, after_seconds: float, frames: int) -> Saving:
    """Return what is saved by rendering frames another way.

    Parameters
    ----------
    before_seconds, after_seconds : float
        Of one frame each, > 0.
    frames : int
    """
    less = before_seconds - after_seconds
    return Saving(less / before_seconds, less * frames / HOUR_S, frames)


NOT_KNOWN, NOT_MEASURED = "not known", "error not measured"
_TWICE = 2.0  # times more: from there on it is said how many times as long
SAME = 0.005  # of the hours: less is within the noise of the estimate
Row = tuple[str, str, str]


def saving_sentence(ways: TwoWays) -> str:
    """Return what the second way saves against the first: ``87 % and 35 machine-hours saved over 75 frames``."""
    share, hours = ways.saved_share, ways.saved_hours
    where = f"over {counted(ways.frames, 'frame')}"
    if abs(share.middle) < SAME:
        return f"About the same hours {where}."
    word = "saved" if hours.middle > 0 else "more"
    sign = 1.0 if hours.middle > 0 else -1.0
    ends = sorted((sign * hours.low, sign * hours.high))
    amount = format_hours(Interval(ends[0], sign * hours.middle, ends[1]))
    noun = "of machine time" if ends[1] < 1 and ends[0] > 0 else "machine-hours"
    unsure = "; it may be none" if share.low < 0 < share.high else ""
    if share.middle <= -_TWICE:
        return f"{share_words(-share.middle)} as long, {amount} {noun} more {where}{unsure}."
    return f"{share_words(-share.middle)} and {amount} {noun} {word} {where}{unsure}."


def said_of_times(ways: TwoWays) -> str:
    """Return what a frame that was timed both ways says by itself; empty if there is none."""
    return "" if ways.timed is None else timed_sentence(*ways.timed, ways.frames)


def timed_sentence(first: Trial, second: Trial, frames: int) -> str:
    """Return what two timed frames say by themselves.

    Examples
    --------
    >>> made = [Trial(shot="s", frame=1, samples=1, seconds=seconds) for seconds in (1928, 242)]
    >>> timed_sentence(*made, 75)
    '32 m 08 s against 4 m 02 s over 75 frames: 87 % and 35.1 machine-hours saved.'
    """
    found = saving(first.seconds, second.seconds, frames)
    both = f"{format_duration(first.seconds)} against {format_duration(second.seconds)} over {counted(frames, 'frame')}"
    word = "saved" if found.share >= 0 else "more"
    share = f"{share_words(-found.share)}{' as long,' if found.share <= -_TWICE else ' and'}"
    return f"{both}: {share} {machine_hours(abs(found.hours))} {word}."


def rows(project: Project, found: TwoWays) -> tuple[Row, ...]:
    """Return what is compared, line by line: its name, the first way, the second."""
    ways = found.first, found.second
    again = " with retakes" if project.delivery.retake_share else ""  # the rows of the brief are without
    lines: list[tuple[str, list[str]]] = []
    if found.about:
        lines += [
            ("settings", ["" if way.settings is None else settings_words(way.settings) for way in ways]),
            ("render time a frame", [_seconds(way.frame_seconds) for way in ways]),
            (f"machine-hours of {found.about}{again}", [_interval(way.hours) for way in ways]),
        ]
    lines += [
        ("machine-hours of the film", [_interval(way.film_hours) for way in ways]),
        ("finish", [say_moment(way.finish, project) for way in ways]),
        ("chance", [_chance(way.probability) for way in ways]),
        ("disk", [_amount(way.disk_gib, "GiB") for way in ways]),
    ]
    if found.about:
        lines += [("error", [_error(way) for way in ways])]
        if any(way.error is not None and way.error.softening is not None for way in ways):
            lines += [("softening", [_softening(way) for way in ways])]
    return tuple((name, both[0], both[1]) for name, both in lines)


def as_text(project: Project, ways: TwoWays, timed: str = "") -> str:
    """Return the card as plain text."""
    about = f"Shot {ways.about}" if ways.about else "The film"
    lines = [f"{about}: {ways.first.name} against {ways.second.name}"]
    table = [("", ways.first.name, ways.second.name), *rows(project, ways)]
    widths = [max(len(row[column]) for row in table) for column in (0, 1)]
    lines += [f"{name:<{widths[0]}}  {one:<{widths[1]}}  {other}".rstrip() for name, one, other in table]
    measured = timed or said_of_times(ways)
    return "\n".join([*lines, *([f"As timed: {measured}"] if measured else []), saving_sentence(ways)])


def _interval(hours: Interval) -> str:
    return format_hours(hours)


def _seconds(each: Interval | None) -> str:
    if each is None:
        return NOT_KNOWN
    return format_seconds(each)


def _amount(value: Interval | None, unit: str) -> str:
    return NOT_KNOWN if value is None else f"{format_interval(value)} {unit}"


def _chance(probability: float | None) -> str:
    return NOT_KNOWN if probability is None else chance_percent(probability)


def _softening(way: WayNumbers) -> str:
    if way.settings is not None and way.settings.denoise == NO_DENOISE:
        return "none, not denoised"
    return _amount(None if way.error is None else way.error.softening, "levels")


def _error(way: WayNumbers) -> str:
    if way.error is not None:
        return _amount(way.error.total, "levels")
    return NOT_MEASURED if way.by_eye is None else f"{way.by_eye}, by eye"
