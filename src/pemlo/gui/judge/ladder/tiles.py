"""Reads and measures the tiles of a ladder sheet in the background. GUI thread."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from PySide6.QtGui import QImage

from pemlo.app.jobs import Jobs
from pemlo.core.pixels.box import Box
from pemlo.core.progress import Monitor
from pemlo.core.project.spelling import settings_words
from pemlo.core.units import format_duration
from pemlo.gui.judge.ladder.sheet import TILE, Tile
from pemlo.gui.judge.measure.measuring import MeasureConditions
from pemlo.gui.judge.presenter import PictureChoice

if TYPE_CHECKING:
    from pemlo.core.appraisal.picture_comparison import ComparisonRequest, PictureComparison
    from pemlo.core.pixels.screen import Pixels

SHEET = "judge sheet"


@dataclass(frozen=True)
class TileRequest:
    """A tile that is wanted: of which picture, and what is to be measured of it."""

    choice: PictureChoice
    question: "ComparisonRequest"


def part_around(centre: tuple[float, float], size: tuple[int, int]) -> Box:
    """Return the part of a picture of a size that a tile shows: around a place, and inside."""
    wide, high = min(TILE.width(), size[0]), min(TILE.height(), size[1])
    left = round(min(max(centre[0] - wide / 2, 0), size[0] - wide))
    top = round(min(max(centre[1] - high / 2, 0), size[1] - high))
    return left, top, left + wide, top + high


def make_tiles(
    jobs: Jobs,
    wanted: Sequence[TileRequest],
    size: tuple[int, int],
    box: Box,
    how: MeasureConditions,
    take: Callable[[list[Tile]], None],
) -> None:
    """Read the same part of every picture, measure them all, and hand over the tiles.

    Parameters
    ----------
    size : tuple of int
        To which all pictures are brought, px.
    box : tuple of int
        The part, in px of that size.
    """

    def work(monitor: Monitor) -> "list[tuple[PictureChoice, Pixels, PictureComparison]]":
        from pemlo.core.appraisal.picture_comparison import compare  # noqa: PLC0415 - heavy to load
        from pemlo.core.files.loading import load_part  # noqa: PLC0415 - as above
        from pemlo.core.pixels.screen import shown  # noqa: PLC0415 - as above

        found = []
        for number, one in enumerate(wanted):
            monitor.step(number / len(wanted), f"Measuring {one.choice.name}")
            pixels = shown(load_part(one.choice.path, how.reading, size, box), how.display)
            found.append((one.choice, pixels, compare(one.question, with_scores=False)))
        return found

    def done(found: "list[tuple[PictureChoice, Pixels, PictureComparison]]") -> None:
        take([_tile(*one) for one in found])

    jobs.submit(SHEET, "Making the ladder sheet", work, done)


def _tile(choice: PictureChoice, pixels: "Pixels", picture_comparison: "PictureComparison") -> Tile:
    height, width = pixels.shape
    image = QImage(pixels.tobytes(), width, height, 4 * width, QImage.Format.Format_RGB32).copy()
    assert choice.trial is not None
    error = picture_comparison.measured.error
    said = "reference" if error is None else f"error {error.total.middle:.1f} levels"
    mark = f" · {choice.trial.mark}" if choice.trial.mark else ""
    return Tile(image, settings_words(choice.trial), f"{format_duration(choice.trial.seconds)} · {said}{mark}")
