"""What is due: size, rate, deadline, and the chance that is wanted. Imports its neighbours only."""

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta, timezone
from zoneinfo import ZoneInfo

from pydantic import Field, field_validator

from pemlo.core.project.currencies import currency
from pemlo.core.project.record import Record
from pemlo.core.project.viewing import pixels_per_degree


@dataclass(frozen=True)
class FrameSize:
    """A frame size under the name that its standard gives it."""

    name: str
    width: int
    height: int
    source: str


FRAME_SIZES = (
    FrameSize("HD 720", 1280, 720, "SMPTE ST 296"),
    FrameSize("HD 1080", 1920, 1080, "ITU-R BT.709"),
    FrameSize("DCI 2K", 2048, 1080, "SMPTE ST 428-1"),
    FrameSize("UHD 4K", 3840, 2160, "ITU-R BT.2020"),
    FrameSize("DCI 4K", 4096, 2160, "SMPTE ST 428-1"),
    FrameSize("UHD 8K", 7680, 4320, "ITU-R BT.2020"),
)

# Rates as frames over seconds (SMPTE ST 2048-2 and ITU-R BT.2020); the 1001 ones carry the name people say.
FRAME_RATES: dict[str, float] = {
    "23.976": 24000 / 1001,
    "24": 24.0,
    "25": 25.0,
    "29.97": 30000 / 1001,
    "30": 30.0,
    "48": 48.0,
    "50": 50.0,
    "59.94": 60000 / 1001,
    "60": 60.0,
}


def exact_rate(fps: float) -> float:
    """Return the standard rate that a rounded number of frames a second means.

    Examples
    --------
    >>> exact_rate(29.97) == 30000 / 1001, exact_rate(12)
    (True, 12.0)
    """
    return next((rate for rate in FRAME_RATES.values() if abs(rate - fps) < 0.002), float(fps))


def rate_name(fps: float) -> str:
    """Return how people say a rate: ``23.976`` for 24000/1001."""
    return next((name for name, rate in FRAME_RATES.items() if abs(rate - fps) < 1e-6), f"{fps:g}")


class Delivery(Record):
    """What must be handed over, when, and how sure of it one wants to be.

    `seen_from` is where the film will be watched: a seat, or pixels a degree. `deadline` carries its time zone;
    `timezone` is the zone in which hours and dates are read and shown. Prices are in `currency`, a code of ISO 4217,
    and a plan costs no more than the `budget`.
    """

    width: int = Field(default=1920, ge=1, le=65536)
    height: int = Field(default=1080, ge=1, le=65536)
    fps: float = Field(default=24.0, gt=0, le=1000)
    timezone: str = "UTC"
    deadline: datetime
    confidence: float = Field(default=0.9, ge=0.5, le=0.999)
    assembly_minutes: float = Field(default=0.0, ge=0, le=60 * 24 * 365)
    seen_from: str = "desk"
    retake_share: float = Field(default=0.0, ge=0, le=10)
    currency: str = ""
    budget: float | None = Field(default=None, gt=0, le=1e12)

    @field_validator("currency")
    @classmethod
    def _known_currency(cls, text: str) -> str:
        return currency(text)

    @field_validator("timezone")
    @classmethod
    def _known_zone(cls, name: str) -> str:
        zone(name)
        return name

    @field_validator("seen_from")
    @classmethod
    def _known_viewing(cls, viewing: str) -> str:
        pixels_per_degree(viewing, 1)
        return viewing.strip()

    @field_validator("fps")
    @classmethod
    def _standard_rate(cls, fps: float) -> float:
        return exact_rate(fps)

    @field_validator("deadline")
    @classmethod
    def _with_zone(cls, moment: datetime) -> datetime:
        return checked_moment(moment)

    @property
    def zone(self) -> ZoneInfo:
        return zone(self.timezone)

    @property
    def render_by(self) -> datetime:
        """When the last frame must be there: the deadline less the minutes kept for assembly."""
        return self.deadline - timedelta(minutes=self.assembly_minutes)


def zone(name: str) -> ZoneInfo:
    """Return the time zone of that name.

    Raises
    ------
    ValueError
        If there is none.
    """
    try:
        return ZoneInfo(name)
    except (KeyError, ValueError, OSError) as error:
        raise ValueError(f"“{name}” is not a time zone; write one like Europe/Lisbon or UTC") from error


def checked_moment(moment: datetime) -> datetime:
    """Return a moment with a fixed offset; refuse one without a zone, and years far away.

    Python subtracts two moments of one zone as if its clocks never changed: with fixed offsets, differences are true.
    """
    if moment.tzinfo is None:
        raise ValueError("must have a time zone")
    if not 1990 <= moment.year <= 2200:
        raise ValueError(f"the year {moment.year} is not between 1990 and 2200")
    offset = moment.utcoffset()
    assert offset is not None
    return moment.replace(tzinfo=timezone(offset) if offset else UTC)


def local_moment(text: str, zone_name: str) -> datetime:
    """Read a date and time; one without an offset is meant in a zone.

    Parameters
    ----------
    text : str
        ISO 8601, such as ``2031-04-24T18:00`` or ``2031-04-24 18:00+02:00``.
    zone_name : str
        IANA name.

    Raises
    ------
    ValueError
        If the text is not a date and time, the zone is unknown, or its clocks leave that time out.
    """
    try:
        moment = datetime.fromisoformat(text.strip())
    except ValueError as error:
        raise ValueError(f"“{text.strip()}” is not a date and time; write it like 2031-04-24T18:00") from error
    if moment.tzinfo is None:
        local = moment.replace(tzinfo=zone(zone_name))
        there = checked_moment(local).astimezone(UTC).astimezone(local.tzinfo)
        if there.replace(tzinfo=None) != moment:
            raise ValueError(f"{moment:%H:%M} is left out in {zone_name} that day; from it on it is {there:%H:%M}")
        moment = local
    return checked_moment(moment)
