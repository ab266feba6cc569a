"""Draws the marks of a film's frames into one picture, row by row: a hundred thousand in some milliseconds. NumPy.

State is told by shape: a frame that waits is a hollow square, one that is written half filled, one that is in solid,
one that is lost or broken a cross, one that is to be rendered again a ring. How solid, tells what it took.
"""

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats, Ints
from pemlo.core.arrivals.states import FrameState

Pixels = npt.NDArray[np.uint8]
LEAST_CELL = 3  # px; what is narrower stands together in columns
MOST_CELL, MOST_HIGH = 13, 15
NARROW = 4  # px of a mark that is too narrow to be hollow
FAINTEST = 0.4  # of the cheapest frame that is in
STATES = len(FrameState)
SHADES, UNKNOWN = 8, 0.6


@dataclass(frozen=True)
class MarkColours:
    """Red, green and blue of what is drawn: paper, a frame that waits, one that is in, and trouble."""

    paper: tuple[int, int, int]
    waiting: tuple[int, int, int]
    there: tuple[int, int, int]
    trouble: tuple[int, int, int]


@dataclass(frozen=True)
class RowMarks:
    """Frames of one row, F of them: their states, how strong each is that is in, 0 to 1, and if they fill the width."""

    state: npt.NDArray[np.int8]
    strength: Floats
    fills: bool = False


@dataclass(frozen=True)
class MarkRow:
    """One shot: its name, its frames, their marks, and what is said at the end of the row; or all of a sequence."""

    shot: str
    frames: Ints
    marks: RowMarks
    words: str
    group: str = ""


@dataclass(frozen=True)
class Grid:
    """Where marks stand: the px of one cell across (less than one where many share a px), and px of a row and a mark.

    Attributes
    ----------
    cell : float
    pitch, high : int
        From row to row, and how high a mark is.
    """

    cell: float
    pitch: int
    high: int

    def column(self, number: float) -> float:
        """Return where a frame's mark begins, px."""
        return number * self.cell

    def frame_at(self, x: float, count: int) -> int | None:
        """Return which frame of a row stands at a px; None past its end."""
        number = int(x / self.cell)
        return number if x >= 0 and number < count else None


def grid_for(longest: int, rows: int, width: int, height: int) -> Grid:
    """Return a grid in which the longest of the rows fits the width, and all of them the height if that can be."""
    cell = min(width / max(longest, 1), float(MOST_CELL))
    if cell >= LEAST_CELL:
        cell = float(int(cell))
    pitch = int(np.clip(height / max(rows, 1), 8, MOST_HIGH + 14))
    return Grid(cell, pitch, int(min(pitch - 3, MOST_HIGH)))


@dataclass(frozen=True)
class Drawn:
    """A picture of rows, (rows * pitch, width, 4): blue, green, red and a byte that counts for nothing."""

    pixels: Pixels
    rows: tuple[RowMarks, ...]
    grid: Grid
    look: MarkColours


def draw_marks(rows: list[RowMarks], grid: Grid, width: int, look: MarkColours, before: Drawn | None = None) -> Drawn:
    """Return a picture of the rows; of one that was drawn before only the rows that changed are drawn anew."""
    size = max(len(rows), 1) * grid.pitch, max(width, 1), 4
    if before is None or before.pixels.shape != size or (before.grid, before.look) != (grid, look):
        picture, same = np.empty(size, np.uint8), [False] * len(rows)
        picture[:] = (*look.paper[::-1], 255)
    else:
        picture = before.pixels
        same = [_alike(row, other) for row, other in zip(rows, before.rows, strict=True)]
    for number, row in enumerate(rows):
        if same[number]:
            continue
        top = number * grid.pitch + (grid.pitch - grid.high) // 2
        strip = picture[top : top + grid.high]
        strip[:] = (*look.paper[::-1], 255)
        if len(row.state):
            mine = replace(grid, cell=strip.shape[1] / len(row.state)) if row.fills else grid
            cells = mine.cell >= LEAST_CELL and not row.fills
            (_draw_cells if cells else _draw_columns)(strip, row, mine, look)
    return Drawn(picture, tuple(rows), grid, look)


def _alike(row: RowMarks, other: RowMarks) -> bool:
    return np.array_equal(row.state, other.state) and np.array_equal(row.strength, other.strength)


def _draw_cells(strip: Pixels, row: RowMarks, grid: Grid, look: MarkColours) -> None:
    wide = int(grid.cell)
    count = min(len(row.state), strip.shape[1] // wide)
    masks = _masks(wide, grid.high)
    colours = np.array([look.waiting, look.there, look.there, look.trouble, look.trouble, look.trouble], float)
    state = row.state[:count]
    ink = masks[state].astype(float)  # (F, high, wide)
    solid = np.where(state == FrameState.IN, FAINTEST + (1 - FAINTEST) * row.strength[:count], 1.0)
    ink *= solid[:, None, None]
    paper = np.array(look.paper, float)
    shown = paper + ink[..., None] * (colours[state][:, None, None, :] - paper)
    shown = shown.transpose(1, 0, 2, 3).reshape(grid.high, count * wide, 3)
    strip[:, : count * wide, :3] = np.round(shown[..., ::-1]).astype(np.uint8)


def _masks(wide: int, high: int) -> npt.NDArray[np.float32]:
    """Return how each state's mark covers a cell, (states, high, wide); the last px across stays empty."""
    masks = np.zeros((STATES, high, wide), np.float32)
    inner = wide - 1
    box = masks[FrameState.WAITING, :, :inner]
    box[[0, -1], :] = 1.0
    box[:, [0, -1]] = 1.0
    masks[FrameState.WRITING, :, :inner] = masks[FrameState.WAITING, :, :inner]
    masks[FrameState.WRITING, high // 2 :, :inner] = 1.0
    masks[FrameState.IN, :, :inner] = 1.0
    if inner < NARROW:  # then height tells: a foot, the lower half, all, the ends, the middle
        third = max(high // 3, 1)
        masks[FrameState.WAITING, :-2, :inner] = 0.0
        masks[FrameState.WRITING, : high // 2, :inner] = 0.0
        masks[FrameState.AGAIN, third:-third, :inner] = 1.0
        masks[[FrameState.LOST, FrameState.BROKEN], :, :inner] = 1.0
        masks[[FrameState.LOST, FrameState.BROKEN], third:-third, :inner] = 0.0
        return masks
    y, x = np.mgrid[0:high, 0:inner]
    across, down = x / max(inner - 1, 1), y / max(high - 1, 1)
    near = 0.75 / max(inner, 2) + 0.35 / max(high, 2)
    cross = (np.abs(across - down) < near) | (np.abs(across + down - 1) < near)
    masks[FrameState.LOST, :, :inner] = cross
    masks[FrameState.BROKEN, :, :inner] = cross
    masks[FrameState.BROKEN, [0, -1], :inner] = 1.0
    away = np.hypot(2 * across - 1, 2 * down - 1)
    masks[FrameState.AGAIN, :, :inner] = (away < 1.05) & (away > 1.05 - 4.0 / max(min(inner, high), 4))
    return masks


def _draw_columns(strip: Pixels, row: RowMarks, grid: Grid, look: MarkColours) -> None:
    """Draw frames that share px: each column is filled as far as its frames are in; trouble in it stands at the top."""
    count = len(row.state)
    first = np.unique((np.arange(count) * grid.cell).astype(int), return_index=True)[1]
    columns = min(len(first), strip.shape[1])
    first = first[:columns]
    sizes = np.diff(np.append(first, count))[:columns]
    there = row.state == FrameState.IN
    share = np.add.reduceat(there.astype(float), first)[:columns] / sizes
    strength = np.add.reduceat(np.where(there, row.strength, 0.0), first)[:columns]
    strength = strength / np.maximum(share * sizes, 1)
    trouble = np.add.reduceat((row.state >= FrameState.LOST).astype(float), first)[:columns] > 0
    high = len(strip)
    level = np.arange(high)[::-1, None]
    filled = level < np.round(share * high)[None, :]
    paper, ink = np.array(look.paper, float), np.array(look.there, float)
    solid = FAINTEST + (1 - FAINTEST) * strength
    inked = paper + solid[None, :, None] * (ink - paper)
    empty = paper + 0.35 * (np.array(look.waiting, float) - paper)
    shown = np.where(filled[..., None], np.broadcast_to(inked, (high, columns, 3)), empty)
    shown[: max(high // 3, 2), trouble] = look.trouble
    strip[:, :columns, :3] = np.round(shown[..., ::-1]).astype(np.uint8)


def scale_of(seconds: Floats) -> tuple[float, float] | None:
    """Return the logs of the seconds that are drawn faintest and strongest; None where too little is known.

    Parameters
    ----------
    seconds : (K,) ndarray
        Of all frames that are in, on the reference machine; NaN where not known.
    """
    known = seconds[np.isfinite(seconds) & (seconds > 0)]
    if len(known) < 2:
        return None
    # In steps, so that a frame more changes no other mark.
    low, high = np.round(10 * np.log(np.quantile(known, [0.02, 0.98]))) / 10
    return float(low), float(high)


def strengths(seconds: Floats, scale: tuple[float, float] | None) -> Floats:
    """Return how strong frames are drawn by what they took, 0 to 1; a middling strength where that is not known."""
    if scale is None:
        return np.full(len(seconds), UNKNOWN)
    with np.errstate(invalid="ignore", divide="ignore"):
        found = (np.log(seconds) - scale[0]) / max(scale[1] - scale[0], 1e-6)
    return np.where(np.isfinite(found), np.round(SHADES * np.clip(found, 0.0, 1.0)) / SHADES, UNKNOWN)


def frame_numbers(frames: Ints, first: int, last: int) -> tuple[int, ...]:
    """Return the frames from one place to another, whichever is first."""
    low, high = min(first, last), max(first, last)
    return tuple(int(frame) for frame in frames[low : high + 1])
