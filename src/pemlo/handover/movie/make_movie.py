"""Makes a review movie: pictures or slates, words, two sequences beside each other, sound. Files; minutes."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Literal

import numpy as np

from pemlo.core.editing.timecode import counts_drop, timecode
from pemlo.core.errors import InputError
from pemlo.core.pixels.display import Display, Srgb
from pemlo.core.progress import Monitor, Unwatched
from pemlo.handover.movie.burn_in import U8, burn
from pemlo.handover.movie.codecs import Codec
from pemlo.handover.movie.pictures import MoviePictures
from pemlo.handover.movie.timeline import Moment
from pemlo.handover.movie.writer import check_sound, writing

Burned = Literal["shot", "frame", "timecode", "settings"]
BURNED: tuple[Burned, ...] = ("shot", "frame", "timecode", "settings")
Layout = Literal["beside", "split"]
_LINE, _LINE_CODE = 2, 235
LEAST_SIDE, MOST_SIDE = 16, 16_384


@dataclass(frozen=True)
class MovieOrder:
    """What is wanted of a movie.

    Attributes
    ----------
    shown : tuple of Moment
        Moment by moment.
    size : tuple of int
        Of one sequence, px; made even.
    fps : float
    codec : Codec
    display : Display
        From light to what is seen.
    burned : tuple of str
        Which words stand below.
    first_frame : int
        Of timecode: 86 400 begins at 01:00:00:00 where a second has 24 frames.
    drop : bool
        Whether timecode leaves out numbers, to keep up with the clock.
    beside : tuple of Moment
        A second sequence; empty for none.
    layout : str
        ``beside``: both whole, one right of the other; ``split``: left half of the one, right half of the other.
    sound : path, optional
    """

    shown: tuple[Moment, ...]
    size: tuple[int, int]
    fps: float
    codec: Codec
    display: Display = field(default_factory=Srgb)
    burned: tuple[Burned, ...] = BURNED
    first_frame: int = 0
    drop: bool = False
    beside: tuple[Moment, ...] = ()
    layout: Layout = "beside"
    sound: Path | None = None

    @property
    def side_sizes(self) -> tuple[int, int]:
        """Size of one sequence with even sides, px."""
        return self.size[0] // 2 * 2, self.size[1] // 2 * 2

    @property
    def missing(self) -> int:
        """How many slates stand for pictures that are missing."""
        return sum(moment.missing for moment in self.shown)

    @property
    def whole_size(self) -> tuple[int, int]:
        """Size of the movie, px."""
        width, height = self.side_sizes
        return (2 * width, height) if self.beside and self.layout == "beside" else (width, height)


@dataclass(frozen=True)
class MovieMade:
    """What was written: how many pictures, how many slates for missing ones, and what could not be read."""

    frames: int
    missing: int
    damaged: tuple[str, ...]


def make_movie(order: MovieOrder, path: Path, monitor: Monitor | None = None) -> MovieMade:
    """Write a movie.

    Parameters
    ----------
    order : MovieOrder
    path : path
    monitor : Monitor, optional

    Raises
    ------
    InputError
        If there is nothing to show, or timecode cannot be counted so.
    FileError
        If it cannot be written, or the sound cannot be read.
    Cancelled
        From the monitor; then nothing is left behind.
    """
    watch = monitor or Unwatched()
    _check(order)
    made = _Made(order)
    srgb = isinstance(order.display, Srgb)
    sound = order.sound is not None
    with writing(path, order.codec, order.whole_size, order.fps, srgb=srgb, sound=sound) as movie:
        for number, shown in enumerate(order.shown):
            watch.step(number / len(order.shown), f"Writing {path.name}: {shown.shot}")
            movie.put(made.picture(number))
        if order.sound is not None:
            watch.step(1.0, f"Writing the sound of {path.name}")
            movie.put_sound(order.sound)
    return MovieMade(len(order.shown), order.missing, made.damaged)


def movie_picture(order: MovieOrder, number: int) -> U8:
    """Return one picture of a movie as it is before it is encoded, (H, W, 3) display codes.

    Parameters
    ----------
    order : MovieOrder
    number : int
        Of the picture, from 0.

    Raises
    ------
    InputError
        As `make_movie` does.
    """
    _check(order)
    return _Made(order).picture(number)


class _Made:
    """The pictures of a movie, one by one."""

    def __init__(self, order: MovieOrder) -> None:
        self._order = order
        self._first = MoviePictures(order.side_sizes, order.display)
        self._second = MoviePictures(order.side_sizes, order.display)

    @property
    def damaged(self) -> tuple[str, ...]:
        return tuple(dict.fromkeys((*self._first.damaged, *self._second.damaged)))

    def picture(self, number: int) -> U8:
        order = self._order
        picture = self._first.codes(order.shown[number])
        if order.beside:
            picture = joined(picture, self._second.codes(order.beside[number]), order.layout)
        _write_words(picture, order, number)
        return picture


def _check(order: MovieOrder) -> None:
    if not order.shown:
        raise InputError("There is nothing to show.", "Choose shots that have frames.")
    if order.beside and len(order.beside) != len(order.shown):
        raise InputError("The two sequences are not equally long.", "Show the same shots in both.")
    if not all(LEAST_SIDE <= side <= MOST_SIDE for side in order.side_sizes):
        raise InputError(
            f"A movie is not {order.size[0]}×{order.size[1]} px.", f"Sides are {LEAST_SIDE} to {MOST_SIDE} px."
        )
    if order.drop and not counts_drop(order.fps):
        raise InputError(f"There is no drop-frame timecode at {order.fps:g} frames a second.", "Count without it.")
    if order.sound is not None:
        check_sound(order.sound)


def joined(one: U8, other: U8, layout: Layout) -> U8:
    """Return two pictures in one: beside each other, or the left half of one and the right half of the other."""
    if layout == "beside":
        return np.concatenate([one, other], axis=1)
    middle = one.shape[1] // 2
    both = one.copy()
    both[:, middle:] = other[:, middle:]
    both[:, middle - _LINE // 2 : middle + _LINE // 2] = _LINE_CODE
    return both


def _write_words(picture: U8, order: MovieOrder, number: int) -> None:
    if not order.burned:
        return
    shown = order.shown[number]
    width = picture.shape[1]
    if order.beside and order.layout == "beside":
        half = width // 2
        burn(picture[:, :half], *_words(order, shown, number, with_time=False))
        burn(picture[:, half:], *_words(order, order.beside[number], number, with_time=True))
        return
    words = _words(order, shown, number, with_time=True)
    if order.beside:
        other = order.beside[number].words
        middle = f"{words[1]} | {other}" if "settings" in order.burned else ""
        words = words[0], middle, words[2]
    burn(picture, *words)


def _words(order: MovieOrder, shown: Moment, number: int, *, with_time: bool) -> tuple[str, str, str]:
    said: dict[Burned, Callable[[], str]] = {
        "shot": lambda: shown.shot,
        "frame": lambda: str(shown.frame),
        "settings": lambda: "" if shown.missing else shown.words,
        "timecode": lambda: timecode(order.first_frame + number, order.fps, drop=order.drop) if with_time else "",
    }
    found = {name: said[name]() if name in order.burned else "" for name in BURNED}
    left = "  ".join(filter(None, (found["shot"], found["frame"])))
    return left, found["settings"], found["timecode"]


def movie_size(sizes: Sequence[tuple[int, int]], width: int | None) -> tuple[int, int]:
    """Return the size of a movie: the largest of its pictures, or so wide with the same proportions."""
    wide, high = max(sizes, key=lambda size: size[0] * size[1])
    return (wide, high) if width is None else (width, max(1, round(high * width / wide)))
