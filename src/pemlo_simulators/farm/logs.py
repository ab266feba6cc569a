"""Three styles of logs that the small farm may write. Pure text."""

from datetime import datetime, timedelta
from typing import Literal, get_args

from pemlo_simulators.farm.schedule import Delivered

Style = Literal["sentences", "pairs", "sheet"]
STYLES: tuple[Style, ...] = get_args(Style)


def log_lines(style: Style, delivered: Delivered, start: datetime, samples: int) -> list[str]:
    """Return what the farm writes about a frame.

    Examples
    --------
    >>> from datetime import UTC
    >>> frame = Delivered(500.0, 258.0, "070", 12, "desk", 0, 242.0, 1, False, False)
    >>> log_lines("sheet", frame, datetime(2031, 4, 21, tzinfo=UTC), 512)
    ['shot=070;f#12;host=desk;Time: 4:02.00;spp=512']
    """
    begun, ended = (start + timedelta(seconds=moment) for moment in (delivered.begun, delivered.at))
    if style == "sentences":
        hours, rest = divmod(delivered.seconds, 3600)
        minutes, seconds = divmod(rest, 60)
        took = f"{int(hours):02d}:{int(minutes):02d}:{seconds:05.2f}"
        frame = f"shot {delivered.shot} frame {delivered.frame:04d}"
        return [f"{ended:%Y-%m-%d %H:%M:%S} {delivered.machine}: {frame} ready after {took}"]
    if style == "pairs":
        what = f"{delivered.shot}/{delivered.frame} on {delivered.machine}"
        return [
            f"[{moment:%Y-%m-%d %H:%M:%S}.{moment.microsecond // 1000:03d}] {word} {what}"
            for moment, word in ((begun, "taken up"), (ended, "put down"))
        ]
    minutes, seconds = divmod(delivered.seconds, 60)
    frame = f"shot={delivered.shot};f#{delivered.frame};host={delivered.machine}"
    return [f"{frame};Time: {int(minutes)}:{seconds:05.2f};spp={samples}"]
