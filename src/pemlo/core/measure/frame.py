"""Measures one frame: its grain, and how far it is from a cleaner one and why. Pure; goes through the rows in strips.

Errors are root mean squares over pixels and colours, in codes of an 8-bit display, and add in squares:
error² = grain² + softening² + scaling². What noise the cleaner frame still has is taken out.
"""

import os
import threading
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor, as_completed
from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np
import numpy.typing as npt
from scipy.ndimage import uniform_filter

from pemlo.core.arrays import Floats
from pemlo.core.errors import InputError
from pemlo.core.interval import Interval
from pemlo.core.measure.fireflies import Fireflies, brightness, excess
from pemlo.core.measure.tiles import TileMap, interval, tile_side, tile_sums
from pemlo.core.measure.wavelet import HALO, tile_variances
from pemlo.core.pixels.box import Box
from pemlo.core.pixels.display import F32, Display, Srgb
from pemlo.core.pixels.rescale import kept_of_noise, there_and_back
from pemlo.core.pixels.source import Rows, Source, at_size, check_same_size
from pemlo.core.progress import Monitor, Unwatched

How = Literal["variance channel", "two seeds", "one picture"]
WORST = 0.95  # the worst region is given by the tile that so many are below
_STRIP_PIXELS = 400_000


@dataclass(frozen=True)
class MeasureRequest:
    """What is to be measured.

    Attributes
    ----------
    picture : Source
    second : Source, optional
        The same frame with the same settings and another seed.
    reference : Source, optional
        The cleanest picture of the frame.
    reference_second : Source, optional
        The reference with another seed.
    denoised : bool, optional
        Whether the picture was denoised: its variance channel then tells of before. None if that is not known; where it
        is known that it was not, all of its error but scaling is noise, if the pictures are alike.
    alike : bool
        Whether the reference was rendered with the same switches: then noise and scaling alone tell them apart.
    size : tuple of int, optional
        Width and height at which pictures are compared, px; the reference's, or the picture's own, unless given.
    display : Display
    """

    picture: Source
    second: Source | None = None
    reference: Source | None = None
    reference_second: Source | None = None
    denoised: bool | None = None
    alike: bool = True
    size: tuple[int, int] | None = None
    display: Display = field(default_factory=Srgb)


@dataclass(frozen=True)
class Grain:
    """Noise of a picture.

    Attributes
    ----------
    mean, worst : float
        Root mean square over the picture, and of the tile that 95 % of tiles are below; display codes.
    linear : float
        Root mean square of the standard error, scene-linear.
    worst_region : tuple of int
        The grainiest tile: left, top, right, bottom, px.
    map : TileMap
        Of the square, codes².
    how : str
        What it was taken from.
    upper_bound : bool
        Whether texture may count as noise.
    """

    mean: float
    worst: float
    linear: float
    worst_region: Box
    map: TileMap
    how: How
    upper_bound: bool


@dataclass(frozen=True)
class Error:
    """How far a picture is from the reference, display codes, and what of it is what.

    Attributes
    ----------
    total : Interval
        Without what noise the reference has.
    grain : float, optional
        With what the display's curve moves the mean by where it bends or clips; None if it is not known.
    softening : Interval, optional
        What is left when the other parts are taken out; None if grain is not known.
    scaling : float
        Of rendering smaller, as the reference itself shows it.
    reference_noise : float, optional
        What was taken out; None if it is not known, and then 0 was.
    map : TileMap
        Of the square of the total, codes²; may be below 0 where it is nothing but noise.
    """

    total: Interval
    grain: float | None
    softening: Interval | None
    scaling: float
    reference_noise: float | None
    map: TileMap


@dataclass(frozen=True)
class Measured:
    """What was measured of a picture of `size` px. `bad` pixels held no numbers and count for nothing."""

    size: tuple[int, int]
    grain: Grain | None
    error: Error | None
    fireflies: Fireflies
    bad: int

    @property
    def pixels(self) -> int:
        return self.size[0] * self.size[1]


def measure(asked: MeasureRequest, monitor: Monitor | None = None, threads: int = 0) -> Measured:
    """Measure a picture.

    Parameters
    ----------
    asked : MeasureRequest
    monitor : Monitor, optional
        Hears of progress; may stop the work.
    threads : int
        0 for as many as the machine has.

    Raises
    ------
    InputError
        If the pictures do not show the same frame, or hold no numbers.
    Cancelled
        From the monitor.
    """
    sums = _added_up(asked, monitor or Unwatched(), threads or os.cpu_count() or 1)
    if not sums.total["count"].any():
        raise InputError("Not one pixel holds a number in all of the pictures.", "Render or export them again.")
    grain = _grain(asked, sums)
    error = None if asked.reference is None else _error(asked, sums, grain)
    if error is not None and grain is not None and asked.denoised is False and asked.alike:
        error, grain = _all_noise(error, grain)
    count = sums.map_of("count").count
    light = float(sums.total["light"].sum())
    fireflies = Fireflies(int(sums.total["fireflies"].sum()), float(sums.total["excess"].sum()) / max(light, 1e-12))
    return Measured(sums.size, grain, error, fireflies, round(sums.size[0] * sums.size[1] - float(count.sum())))


QUANTITIES = (
    *("count", "light", "fireflies", "excess", "grain", "grain_linear", "shift", "error", "reference", "cross"),
    "scaling",
)


class _Sums:
    """Sums over tiles of everything that is measured, filled in strip by strip."""

    def __init__(self, size: tuple[int, int]) -> None:
        self.size, self.side = size, tile_side(size[0])
        shape = -(-size[1] // self.side), -(-size[0] // self.side)
        self.total = {name: np.zeros(shape) for name in QUANTITIES}

    def add(self, first: int, name: str, values: npt.NDArray[np.floating]) -> None:
        """Put in the values of some rows, (H, W) or (H, W, 3); colours are averaged."""
        self.put(first, name, tile_sums(values, self.side))

    def put(self, first: int, name: str, sums: Floats) -> None:
        row = first // self.side
        self.total[name][row : row + len(sums)] = sums

    def map_of(self, name: str) -> TileMap:
        count = self.total["count"]
        return TileMap(self.total[name] / np.maximum(count, 1.0), count, self.side, self.size)


def _added_up(asked: MeasureRequest, monitor: Monitor, threads: int) -> _Sums:
    check_same_size(
        {
            "The picture": asked.picture,
            "The picture with another seed": asked.second,
            "The reference": asked.reference,
            "The reference with another seed": asked.reference_second,
        }
    )
    size = asked.size or (asked.reference or asked.picture).size
    if min(size) < 1:
        raise InputError("The picture has no pixels.", "Choose another.")
    sums = _Sums(size)
    work = _Strips(asked, size, sums)
    strips = list(_strips(size, sums.side))
    stop = threading.Event()
    with ThreadPoolExecutor(threads) as pool:
        running = [pool.submit(work.add, *strip, stop) for strip in strips]
        try:
            for number, done in enumerate(as_completed(running)):
                done.result()
                monitor.step((number + 1) / len(strips), "Measuring")
        finally:
            stop.set()
    return sums


def _strips(size: tuple[int, int], side: int) -> Iterator[tuple[int, int]]:
    rows = max(1, _STRIP_PIXELS // (size[0] * side)) * side
    for first in range(0, size[1], rows):
        yield first, min(first + rows, size[1])


class _Strips:
    """Measures strips; several threads at once."""

    def __init__(self, asked: MeasureRequest, size: tuple[int, int], sums: _Sums) -> None:
        self._asked, self._size, self._sums = asked, size, sums
        self._picture = at_size(asked.picture, size)
        others = (asked.second, asked.reference, asked.reference_second)
        self._second, self._reference, self._reference_second = (
            None if other is None else at_size(other, size) for other in others
        )
        smaller = asked.reference is not None and asked.picture.size[0] < size[0]
        self._there_and_back = (
            there_and_back(asked.reference, asked.picture.size, size) if smaller and asked.reference else None
        )
        self._how = _how(asked)

    def add(self, first: int, end: int, stop: threading.Event) -> None:
        if stop.is_set():
            return
        picture = self._picture.rows(first, end)
        second, reference, other, back = (
            None if source is None else source.rows(first, end)
            for source in (self._second, self._reference, self._reference_second, self._there_and_back)
        )
        read = [rows for rows in (picture, second, reference, other, back) if rows is not None]
        counts = ~np.logical_or.reduce([rows.bad for rows in read])
        put = _Put(self._sums, first, counts)
        put("count", np.ones(counts.shape, np.float32))
        self._add_light(put, picture)
        codes = self._asked.display.codes(picture.colour)
        self._add_grain(put, picture, codes, second, reference, (first, end))
        if reference is not None:
            self._add_error(put, codes, second, reference, other, back)

    @staticmethod
    def _add_light(put: "_Put", picture: Rows) -> None:
        luma = brightness(picture.colour)
        too_bright = excess(luma)
        put("light", luma)
        if too_bright.any():
            put("excess", too_bright)
            put("fireflies", (too_bright > 0).astype(np.float32))

    def _add_grain(
        self, put: "_Put", picture: Rows, codes: F32, second: Rows | None, reference: Rows | None, rows: tuple[int, int]
    ) -> None:
        display = self._asked.display
        if self._how == "two seeds" and second is not None:
            put("grain", (codes - display.codes(second.colour)) ** 2 / 2)
            put("grain_linear", (picture.colour - second.colour) ** 2 / 2)
            around = uniform_filter((picture.colour - second.colour) ** 2 / 2, (5, 5, 1), mode="nearest")
            mean = np.asarray(reference.colour if reference else (picture.colour + second.colour) / 2, np.float32)
            put("shift", display.spread(mean, np.asarray(around, np.float32))[1] ** 2)
        elif self._how == "variance channel" and picture.variance is not None:
            # The cleaner picture tells best where on the curve a pixel lies; without it its neighbours help.
            mean = reference.colour if reference else _calmed(picture.colour, picture.variance)
            square, shift = display.spread(mean, picture.variance)
            put("grain", square)
            put("shift", shift**2)
            put("grain_linear", picture.variance)
        elif self._how == "one picture":
            self._add_grain_of_one(put, rows)

    def _add_grain_of_one(self, put: "_Put", rows: tuple[int, int]) -> None:
        first, end = rows
        side = self._sums.side
        above = min(first, HALO * side)
        around = self._picture.rows(first - above, min(end + HALO * side, self._size[1])).colour
        for name, values in (("grain", self._asked.display.codes(around)), ("grain_linear", around)):
            found = np.mean([tile_variances(values[..., c], side) for c in range(3)], axis=0)
            kept = found[above // side : above // side + -(-(end - first) // side)]
            put.tiles(name, kept)

    def _add_error(
        self, put: "_Put", codes: F32, second: Rows | None, reference: Rows, other: Rows | None, back: Rows | None
    ) -> None:
        display = self._asked.display
        wanted = display.codes(reference.colour)
        put("error", (codes - wanted) ** 2)
        if second is not None:
            put("cross", (codes - wanted) * (display.codes(second.colour) - wanted))
        if other is not None:
            put("reference", (wanted - display.codes(other.colour)) ** 2 / 2)
        elif reference.variance is not None:
            square, shift = display.spread(reference.colour, reference.variance)
            put("reference", square + shift**2)
        if back is not None:
            put("scaling", (display.codes(back.colour) - wanted) ** 2)


class _Put:
    """Puts the values of some rows into the sums, without the pixels that do not count."""

    def __init__(self, sums: _Sums, first: int, counts: npt.NDArray[np.bool_]) -> None:
        self._sums, self._first, self._all = sums, first, bool(counts.all())
        self._counts = counts.astype(np.float32)

    def __call__(self, name: str, values: npt.NDArray[np.floating]) -> None:
        counts = self._counts[..., None] if values.ndim == 3 else self._counts
        self._sums.add(self._first, name, values if self._all else values * counts)

    def tiles(self, name: str, means: Floats) -> None:
        self._sums.put(self._first, name, means * tile_sums(self._counts, self._sums.side))


def _calmed(colour: F32, variance: F32) -> F32:
    """Return (H, W, 3) colour nearer to the mean of its neighbours, by as much as noise makes it differ from them.

    References
    ----------
    .. [1] J.-S. Lee, "Digital image enhancement and noise filtering by use of local statistics", IEEE Trans. PAMI 2,
       1980.
    """
    mean = uniform_filter(colour, (3, 3, 1), mode="nearest")
    spread = np.maximum(uniform_filter(colour**2, (3, 3, 1), mode="nearest") - mean**2, 1e-12)
    kept = np.clip(1 - variance / spread, 0.0, 1.0)
    return np.asarray(mean + kept * (colour - mean), np.float32)


def _how(asked: MeasureRequest) -> How | None:
    """Return what grain is taken from, best first; None if it cannot be had."""
    if asked.picture.has_variance and not asked.denoised:
        return "variance channel"
    if asked.second is not None:
        return "two seeds"
    # Denoised noise no longer varies from pixel to pixel: its wavelets say too little, not too much.
    return None if asked.denoised or min(asked.picture.size) < 16 else "one picture"


def _grain(asked: MeasureRequest, sums: _Sums) -> Grain | None:
    how = _how(asked)
    if how is None:
        return None
    tile_map = sums.map_of("grain")
    spots = tile_map.spots(1)
    return Grain(
        _root(tile_map.whole()),
        _root(tile_map.quantile(WORST)),
        _root(sums.map_of("grain_linear").whole()),
        spots[0] if spots else (0, 0, *sums.size),
        tile_map,
        how,
        how == "one picture",
    )


def _error(asked: MeasureRequest, sums: _Sums, grain: Grain | None) -> Error:
    assert asked.reference is not None
    known = asked.reference_second is not None or asked.reference.has_variance
    reference = sums.map_of("reference").mean
    maps = {name: sums.map_of(name).mean for name in ("error", "cross", "grain", "shift", "scaling")}
    noise = maps["grain"] + maps["shift"]
    kept = kept_of_noise(asked.picture.size, sums.size)
    scaling = np.zeros_like(reference)
    if asked.picture.size[0] < sums.size[0]:
        scaling = maps["scaling"] - kept * reference
    total = maps["error"] - reference
    count = sums.total["count"]
    softening = None
    if asked.second is not None:
        softening = maps["cross"] - reference - maps["shift"] - scaling
    elif grain is not None and not grain.upper_bound:
        softening = total - noise - scaling

    def mean(squares: Floats) -> float:
        return _root(TileMap(squares, count, sums.side, sums.size).whole())

    return Error(
        _value(total, count),
        None if grain is None or grain.upper_bound else mean(noise),
        None if softening is None else _value(softening, count),
        mean(scaling),
        mean(reference) if known else None,
        TileMap(total, count, sums.side, sums.size),
    )


def _all_noise(error: Error, grain: Grain) -> tuple[Error, Grain]:
    """Return error and grain of a picture whose error is known to be noise, but for scaling.

    What a variance makes of display codes is reckoned with normal numbers, and light has longer tails: the measured
    error is nearer to the truth.
    """
    noise = _root(error.total.middle**2 - error.scaling**2)
    error = replace(error, grain=noise, softening=Interval(0.0, 0.0, 0.0))
    if grain.how == "two seeds" or not grain.mean:
        return error, grain
    times = noise / grain.mean
    brought = replace(grain.map, mean=grain.map.mean * times**2)
    return error, replace(grain, mean=noise, worst=grain.worst * times, map=brought, upper_bound=False)


def _value(squares: Floats, count: Floats) -> Interval:
    used = count > 0
    low, high = interval(squares[used], count[used])
    mean = float((squares * count).sum() / max(count.sum(), 1.0))
    return Interval(_root(low), _root(mean), _root(high))


def _root(square: float) -> float:
    return float(np.sqrt(max(square, 0.0)))
