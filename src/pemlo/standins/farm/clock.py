"""The farm's own time, which may run faster than that on the wall; told to others by a small file. Files only."""

import json
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path

CLOCK_FILE = "small-farm.json"
FASTEST = 10_000.0
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
    part = folder / f".{CLOCK_FILE}.part"
    part.write_text(json.dumps(data), encoding="utf-8")
    part.replace(folder / CLOCK_FILE)


def read_clock(folder: Path) -> FarmClock | None:
    """Return what time it is on the farm that writes into a folder; None if none does."""
    try:
        data = json.loads((folder / CLOCK_FILE).read_text(encoding="utf-8"))
        return FarmClock(
            datetime.fromisoformat(data["start"]), float(data["speed"]), float(data["reached"]), float(data["told"])
        )
    except (OSError, ValueError, KeyError, TypeError):
        return None
