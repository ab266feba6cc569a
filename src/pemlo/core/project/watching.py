"""Where frames arrive, how their logs are read, and what is to be rendered again. Imports its neighbours only."""

import itertools
from datetime import datetime
from typing import Annotated, Literal, Self, get_args

from pydantic import Field, StringConstraints, field_validator, model_validator

from pemlo.core.project.delivery import checked_moment
from pemlo.core.project.names import PathText
from pemlo.core.project.record import Record

LogField = Literal["frame", "seconds", "shot", "machine", "samples", "memory", "begun", "ended"]
LOG_FIELDS: tuple[LogField, ...] = get_args(LogField)
MOST_LOGS = 20


class LogMark(Record):
    """Which characters of a line are a field: from the first to before the last."""

    field: LogField
    begin: int = Field(ge=0, le=10_000)
    end: int = Field(ge=1, le=10_000)


class LogExample(Record):
    """A line of a log, and what is marked in it: a frame, and its seconds or when it was begun or ended."""

    line: Annotated[str, StringConstraints(strip_whitespace=False, min_length=1, max_length=10_000)]
    marks: tuple[LogMark, ...] = Field(min_length=1, max_length=len(LOG_FIELDS))

    @model_validator(mode="after")
    def _fits(self) -> Self:
        marks = sorted(self.marks, key=lambda log_mark: log_mark.begin)
        for log_mark in marks:
            if not log_mark.begin < log_mark.end <= len(self.line):
                raise ValueError(f"the {log_mark.field} is marked outside of the line")
        for log_mark, other in itertools.pairwise(marks):
            if other.begin < log_mark.end:
                raise ValueError(f"{log_mark.field} and {other.field} are marked in the same place")
        names = [mark.field for mark in marks]
        if len(set(names)) < len(names):
            raise ValueError("a field is marked twice")
        if "frame" not in names or not {"seconds", "begun", "ended"} & set(names):
            raise ValueError("mark which characters are the frame, and which the seconds or the time of day")
        return self


class LogFile(Record):
    """A log, and examples of its lines: one, or two where a frame's begin and end stand in lines of their own."""

    path: Annotated[PathText, Field(min_length=1)]
    examples: tuple[LogExample, ...] = Field(min_length=1, max_length=2)


class AgainMark(Record):
    """Frames of a shot that are to be rendered again: their files count as new only if they are newer than that."""

    shot: str = Field(min_length=1, max_length=60)
    frames: str = Field(min_length=1, max_length=100_000)
    since: datetime

    @field_validator("since")
    @classmethod
    def _with_zone(cls, moment: datetime) -> datetime:
        return checked_moment(moment)


class Watching(Record):
    """How the frames of a film are watched as they arrive.

    `place` is where they lie, from the project's folder on, such as ``renders/{shot}/{shot}.{frame:04}.exr``; a shot
    may have a place of its own. `header_names` say which attribute of a picture's header holds what, where they are not
    our own. Rendering was `launched` then; without it the first frame tells. `status_folder` is where the status page
    goes.
    """

    place: PathText = ""
    logs: tuple[LogFile, ...] = Field(default=(), max_length=MOST_LOGS)
    header_names: tuple[tuple[str, str], ...] = Field(default=(), max_length=40)
    again: tuple[AgainMark, ...] = Field(default=(), max_length=1000)
    launched: datetime | None = None
    changes_midway: bool = False
    status_folder: PathText = ""
    sound: bool = False

    @field_validator("launched")
    @classmethod
    def _with_zone(cls, moment: datetime | None) -> datetime | None:
        return None if moment is None else checked_moment(moment)
