"""How frames are handed out to machines. Imports its neighbours only."""

from datetime import datetime
from typing import Literal, get_args

from pydantic import Field, field_validator

from pemlo.core.project.delivery import checked_moment
from pemlo.core.project.names import NameOrNone
from pemlo.core.project.record import Record

Order = Literal["film", "due", "longest", "shortest", "by hand"]
ORDERS: tuple[Order, ...] = get_args(Order)
MOST_DISPATCH_S = 86_400.0


class FirstPass(Record):
    """A pass over all shots that comes before the final one, with named settings, and its own date if it has one."""

    settings: str = Field(min_length=1, max_length=60)
    due: datetime | None = None

    @field_validator("due")
    @classmethod
    def _with_zone(cls, moment: datetime | None) -> datetime | None:
        return None if moment is None else checked_moment(moment)


class Running(Record):
    """The rules of the run.

    `order` says in which order shots of one priority are handed out: as they stand in the film, the earliest due
    first, the longest or the shortest first, or by hand as `queue` names them. A machine takes `chunk` frames of a
    shot at a time, and before each chunk `dispatch_seconds` go by. A frame at the end of a machine's hours goes on in
    the next of them, unless it `starts_again`. `disk_gib` is what there is for finished frames. Denoising that waits
    for neighbour frames is a stage of its own, which `denoise_on` may bind to some machines.
    """

    order: Order = "film"
    queue: tuple[str, ...] = Field(default=(), max_length=2000)
    chunk: int = Field(default=1, ge=1, le=100_000)
    dispatch_seconds: float = Field(default=0.0, ge=0, le=MOST_DISPATCH_S)
    starts_again: bool = False
    disk_gib: float | None = Field(default=None, gt=0, le=1e9)
    first_pass: FirstPass | None = None
    denoise_on: tuple[NameOrNone, ...] = Field(default=(), max_length=100)
