"""What time it is where frames are rendered: a small farm's time may run faster than that on the wall. Files only."""

import json
import secrets
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from itertools import takewhile
from pathlib import Path

from pemlo.core.errors import FileError
from pemlo.core.persistence.whole_files import read_whole
from pemlo.core.project.project import Project
from pemlo.core.units import LONGEST_S

CLOCK_FILE = "small-farm.json"
PLACE = "{shot}/{shot}.{frame:04}.exr"  # in the folder of a run, unless another is said
PREPARES = "Rendering the small pictures"  # how lines begin that the farm says while its clock stands
FASTEST = 10_000.0
MOST_BYTES = 10_000
SLACK_S = 2.0  # on the wall: what is told of the time is not much older
GOES_ON_S = 3.0  # on the wall: a farm that has not told the time for so long has stopped


@dataclass(frozen=True)
class FarmClock:
    """What time it is on the farm.

    Attributes
    ----------
    start : datetime
        When the film's rendering begins.
    speed : float
        Seconds on the farm in one on the wall.
    reached : float
        Seconds since the start that the farm had reached when it told.
    told : float
        When that was, on the wall, seconds since 1970.
    """

    start: datetime
    speed: float
    reached: float
    told: float

    def now(self, wall: float) -> datetime:
        """Return the farm's time; it stands still once nothing was heard of the farm."""
        since = min(max(wall - self.told, 0.0), GOES_ON_S)
        return self.start + timedelta(seconds=self.reached + since * self.speed)


def write_clock(folder: Path, clock: FarmClock) -> None:
    """Tell the time."""
    data = {"start": clock.start.isoformat(), "speed": clock.speed, "reached": clock.reached, "told": clock.told}
    part = folder / f".{secrets.token_hex(8)}.part"  # a name that nobody can have put a link under
    part.write_text(json.dumps(data), encoding="utf-8")
    part.replace(folder / CLOCK_FILE)


def read_clock(folder: Path) -> FarmClock | None:
    """Return what time it is on the farm that writes into a folder; None if none does."""
    try:
        data = json.loads(read_whole(folder / CLOCK_FILE, MOST_BYTES, ""))
        numbers = tuple(float(data[name]) for name in ("speed", "reached", "told"))
        farm_clock = FarmClock(datetime.fromisoformat(data["start"]), *numbers)
    except (FileError, ValueError, KeyError, TypeError, OverflowError, RecursionError):
        return None
    speed, reached, told = numbers
    can_be = 0 <= speed <= FASTEST and 0 <= reached <= LONGEST_S and abs(told) <= LONGEST_S
    return farm_clock if can_be and farm_clock.start.tzinfo is not None else None


def clock_of(project: Project, root: Path) -> FarmClock | None:
    """Return the clock of a small farm that renders a film, if one does: it lies where the film's frames arrive."""
    patterns = [project.watching.place, *(shot.place for shot in project.shots)]
    for pattern in filter(None, patterns):
        fixed = list(takewhile(lambda part: "{" not in part, pattern.replace("\\", "/").split("/")[:-1]))
        folder = root.joinpath("/".join(fixed) or ".") if not pattern.startswith("/") else Path("/".join(fixed) or "/")
        if (farm_clock := read_clock(folder)) is not None and farm_clock.start == project.start:
            return farm_clock
    return None


def now_in(project: Project, root: Path, wall: float) -> tuple[datetime, float]:
    """Return what time it is for a film, the small farm's that renders it or the wall's, and how well that is known, s.

    Parameters
    ----------
    project : Project
    root : path
        From where its places are meant.
    wall : float
        Seconds since 1970.
    """
    clock = clock_of(project, root)
    return (datetime.fromtimestamp(wall, UTC), 0.0) if clock is None else (clock.now(wall), SLACK_S * clock.speed)
