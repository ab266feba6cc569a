"""Who renders: machines, their speed, and when they are free. Imports its neighbours only."""

from datetime import date

from pydantic import Field, field_validator

from pemlo.core.project.concurrency import throughput_gain
from pemlo.core.project.hours import parse_day, parse_week
from pemlo.core.project.names import Name
from pemlo.core.project.record import Record

# What part of a frame's work waits for others on the same machine, where nobody measured it: two frames at
# once then give 1.54 times the work of one. Common practice, no source: 1.25-2 on a middling machine.
ASSUMED_CONTENTION = 0.3


class OtherHours(Record):
    """Other hours on one date."""

    day: date
    hours: str

    @field_validator("hours")
    @classmethod
    def _readable(cls, text: str) -> str:
        parse_day(text)
        return text


class Machine(Record):
    """A machine, or a group of equal ones.

    `speed` is relative to the reference machine (2 = twice as fast). `contention` is the part of the work that
    frames at once cannot do side by side (see `pemlo.core.project.concurrency`). `hours` is the week in the
    project's time zone. `coherency` is what frames at once cost each other beside that, and grows with their square.

    Of a machine that is rented, `most` can be had at once, and `most_hours` of machine time in all. `note` is for
    people.
    """

    name: Name
    count: int = Field(default=1, ge=0, le=100_000)
    speed: float = Field(default=1.0, gt=0, le=1000)
    frames_at_once: int = Field(default=1, ge=1, le=1024)
    contention: float = Field(default=ASSUMED_CONTENTION, ge=0, le=1)
    coherency: float = Field(default=0.0, ge=0, le=1)
    memory_gib: float | None = Field(default=None, gt=0, le=1e6)
    hours: str = "always"
    exceptions: tuple[OtherHours, ...] = ()
    price_per_hour: float | None = Field(default=None, ge=0, le=1e6)
    most: int | None = Field(default=None, ge=0, le=100_000)
    most_hours: float | None = Field(default=None, gt=0, le=1e6)
    loss_percent: float = Field(default=0.0, ge=0, lt=100)
    note: str = Field(default="", max_length=10_000)
    extra_columns: tuple[tuple[str, str], ...] = ()

    @field_validator("hours")
    @classmethod
    def _readable(cls, text: str) -> str:
        parse_week(text)
        return text

    def slot_speed(self, frames_at_once: int | None = None) -> float:
        """Return the reference seconds that each of its frames at once gets done in a second.

        Parameters
        ----------
        frames_at_once : int, optional
            Another number of them than it is set to.
        """
        count = frames_at_once or self.frames_at_once
        return self.speed * throughput_gain(count, self.contention, self.coherency) / count
