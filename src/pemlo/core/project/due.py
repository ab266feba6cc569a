"""Deadlines as people say them: ``due Friday 18:00``, ``by 30 April``, ``in 3 days``. Pure text."""

import re
from collections.abc import Callable
from datetime import datetime, timedelta

from pemlo.core.project.delivery import local_moment

DUE_HOUR = 18
# Common practice, no source: what people mean by a part of the day.
_HOURS = {"morning": 9, "noon": 12, "afternoon": 15, "evening": 19, "night": 22}
_FARTHEST_H = 24 * 3660
_DAYS = ("monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday")
_MONTHS = (
    *("january", "february", "march", "april", "may", "june", "july"),
    *("august", "september", "october", "november", "december"),
)
_DAY = "|".join(f"{name[:3]}(?:{name[3:]})?" for name in _DAYS)
_MONTH = "|".join(f"{name[:3]}(?:{name[3:]})?" for name in _MONTHS)
_TIME = r"\d{1,2}:\d{2}|\d{1,2}\s{0,3}(?:am|pm)"
_CLOCK = rf"(?:\s{{0,3}}(?:,|at)?\s{{0,3}}(?P<clock>{_TIME}))?"
_LEAD = r"\b(?:due|by|until|deadline)\s{0,3}(?:is|on|by|:)?\s{0,3}"
_DAY_OF_DATE = re.compile(rf"(?P<day>{_DAY}),? (?=\d{{1,2}}\.? ?(?:{_MONTH})\b)", re.IGNORECASE)
LONGEST_MOMENT = 60  # letters
Match = re.Match[str]


def read_due(text: str, now: datetime, timezone: str) -> tuple[datetime | None, tuple[int, int]]:
    """Return the deadline that a text says, and where in it that stands.

    Parameters
    ----------
    text : str
    now : datetime
        With a zone.
    timezone : str
        IANA name, in which the deadline is meant.

    Returns
    -------
    moment : datetime or None
        None if the text says none.
    span : (int, int)

    Raises
    ------
    ValueError
        If it cannot be.

    Examples
    --------
    >>> from datetime import UTC
    >>> read_due("due Friday 18:00", datetime(2031, 4, 21, 10, tzinfo=UTC), "UTC")[0].day
    25
    """
    for pattern, moment_of in _SAID:
        match = pattern.search(text)
        if match is not None:
            return moment_of(match, now, timezone), match.span()
    return None, (0, 0)


def read_moment(text: str, now: datetime, timezone: str) -> datetime:
    """Return the moment that a whole text says: ``Fri 18:00``, ``tomorrow 9:00``, ``24 Apr 18:00``, ``in 3 days``.

    Raises
    ------
    ValueError
        If it says none, or something beside it.

    Examples
    --------
    >>> from datetime import UTC
    >>> now = datetime(2031, 4, 21, 10, tzinfo=UTC)
    >>> read_moment("Fri 18:00", now, "UTC").isoformat()
    '2031-04-25T18:00:00+00:00'
    >>> read_moment(say_date(read_moment("tomorrow 9:00", now, "UTC")), now, "UTC").isoformat()
    '2031-04-22T09:00:00+00:00'
    """
    words = " ".join(text[:LONGEST_MOMENT].split())
    try:
        return local_moment(words, timezone)
    except ValueError as error:
        if words[:4].isdigit():  # written as dates of computers are: what is wrong with it is said of that
            raise
        refused = error
    words = words.lower().removeprefix("due ").removeprefix("by ")
    with_day = _DAY_OF_DATE.match(words)
    said = f"due {words[with_day.end() :] if with_day else words}"
    found, span = read_due(said, now, timezone)
    if found is None or span != (0, len(said)):
        what = f"“{text.strip()[:LONGEST_MOMENT]}” is not a date and time; write Fri 18:00, or 2031-04-24 18:00"
        raise ValueError(what) from refused
    if with_day and found.weekday() != _weekday_of(with_day["day"]):
        month, day = _MONTHS[found.month - 1].capitalize(), _DAYS[found.weekday()].capitalize()
        raise ValueError(f"{found.day} {month} {found.year} is a {day}")
    return found


def say_date(moment: datetime) -> str:
    """Return a moment as a field says it, and `read_moment` reads it back."""
    day = f"{_DAYS[moment.weekday()][:3].capitalize()} {moment.day} {_MONTHS[moment.month - 1][:3].capitalize()}"
    return f"{day} {moment.year} {moment:%H:%M}"


def _weekday_of(name: str) -> int:
    return next(number for number, day in enumerate(_DAYS) if name.lower().startswith(day[:3]))


def _at(day: datetime, match: Match, timezone: str, usual_hour: int = DUE_HOUR) -> datetime:
    hour, minute = (usual_hour, 0) if match["clock"] is None else _clock(match["clock"])
    return local_moment(f"{day:%Y-%m-%d}T{hour:02d}:{minute:02d}", timezone)


def _clock(text: str | None) -> tuple[int, int]:
    if text is None:
        return DUE_HOUR, 0
    if ":" in text:
        hour, minute = map(int, text.split(":"))
    else:
        hour, minute = int("".join(filter(str.isdecimal, text))) % 12 + (12 if "pm" in text.lower() else 0), 0
    if not (0 <= hour < 24 and 0 <= minute < 60):
        raise ValueError(f"{text} is not a time of day")
    return hour, minute


def _weekday(match: Match, now: datetime, timezone: str) -> datetime:
    wanted = _weekday_of(match["day"])
    ahead = (wanted - now.weekday()) % 7
    if ahead == 0 and _clock(match["clock"]) <= (now.hour, now.minute):
        ahead = 7
    if match["next"] and ahead < 7:
        ahead += 7
    return _at(now + timedelta(days=ahead), match, timezone)


def _relative(match: Match, now: datetime, timezone: str) -> datetime:
    word, part = match["day"].lower(), (match["part"] or "").lower()
    ahead = 1 if word == "tomorrow" else 0
    hour = _HOURS["night" if word == "tonight" else part] if word == "tonight" or part else DUE_HOUR
    return _at(now + timedelta(days=ahead), match, timezone, hour)


def _distance(match: Match, now: datetime, timezone: str) -> datetime:
    unit = match["unit"].lower()
    hours = float(match["number"]) * {"m": 1 / 60, "h": 1, "d": 24, "w": 24 * 7}[unit[0]]
    if not 0 < hours <= _FARTHEST_H:
        raise ValueError(f"a deadline in {match['number']} {unit} cannot be planned for")
    return local_moment((now + timedelta(hours=hours)).replace(second=0, microsecond=0).isoformat(), timezone)


def _date(match: Match, now: datetime, timezone: str) -> datetime:
    month = next(n for n, name in enumerate(_MONTHS, 1) if match["month"].lower().startswith(name[:3]))
    year = int(match["year"]) if match["year"] else now.year
    try:
        day = datetime(year, month, int(match["date"]), tzinfo=now.tzinfo)
    except ValueError as error:
        raise ValueError(f"{match['date']} {_MONTHS[month - 1].capitalize()} is no day") from error
    if match["year"] is None and day.date() < now.date():
        day = day.replace(year=year + 1)
    return _at(day, match, timezone)


def _iso(match: Match, now: datetime, timezone: str) -> datetime:  # noqa: ARG001 - as the others
    try:
        day = datetime.fromisoformat(match["date"])
    except ValueError as error:
        raise ValueError(f"{match['date']} is no day") from error
    return _at(day, match, timezone)


def _today(match: Match, now: datetime, timezone: str) -> datetime:
    return _at(now, match, timezone)


_WAYS: tuple[tuple[str, Callable[[Match, datetime, str], datetime]], ...] = (
    (rf"{_LEAD}(?P<date>\d{{4}}-\d{{2}}-\d{{2}})T?{_CLOCK}", _iso),
    (rf"{_LEAD}(?P<date>\d{{1,2}})\.?\s{{0,3}}(?P<month>{_MONTH})\b\s{{0,3}}(?P<year>\d{{4}})?{_CLOCK}", _date),
    (rf"{_LEAD}(?:(?P<next>next)\s{{1,3}})?(?P<day>{_DAY})\b{_CLOCK}", _weekday),
    (rf"(?:{_LEAD})?\b(?P<day>today|tonight|tomorrow)\b(?: (?P<part>{'|'.join(_HOURS)})\b)?{_CLOCK}", _relative),
    (
        rf"(?:{_LEAD})?\bin\s{{1,3}}(?P<number>\d{{1,9}}(?:\.\d{{1,9}})?)\s{{0,3}}(?P<unit>minutes?|mins?|hours?|hrs?|days?|weeks?)\b",
        _distance,
    ),
    (rf"{_LEAD}(?P<clock>{_TIME})", _today),
)
_SAID = tuple((re.compile(expression, re.IGNORECASE), moment_of) for expression, moment_of in _WAYS)
