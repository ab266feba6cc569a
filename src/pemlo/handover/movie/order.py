"""What a movie of a film is made of: which shots and pictures, at what size. Looks at files; writes nothing."""

from collections.abc import Iterable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Literal

from pemlo.core.errors import InputError
from pemlo.core.files.loading import size_of
from pemlo.core.pixels.display import Display, Srgb
from pemlo.core.project.project import Project
from pemlo.handover.movie.codecs import codec_for
from pemlo.handover.movie.make_movie import BURNED, Burned, Layout, MovieOrder, movie_size
from pemlo.handover.movie.timeline import Moment, Pictures, finished_pictures, timeline, trial_pictures

Source = Literal["frames", "trials"]


@dataclass(frozen=True)
class MovieWish:
    """What somebody asks for.

    Attributes
    ----------
    source : str
        ``frames`` that are finished, or those of ``trials``.
    place : str
        Where frames lie; where they arrive unless given.
    second : str, optional
        Of a second sequence.
    second_place : str
        Where its frames lie; where they arrive unless given.
    layout : str
    shots : tuple of str
        All unless given.
    width : int, optional
        Of one sequence, px; that of its largest picture unless given.
    codec : str
        By its name; by the ending of the file unless given.
    burned : tuple of str
    display : Display
    first_frame : int
    drop : bool
    sound : path, optional
    """

    source: Source = "frames"
    place: str = ""
    second: Source | None = None
    second_place: str = ""
    layout: Layout = "beside"
    shots: tuple[str, ...] = ()
    width: int | None = None
    codec: str = ""
    burned: tuple[Burned, ...] = BURNED
    display: Display = field(default_factory=Srgb)
    first_frame: int = 0
    drop: bool = False
    sound: Path | None = None


def movie_order(project: Project, root: Path, wish: MovieWish, path: Path) -> MovieOrder:
    """Return what is to be written.

    Parameters
    ----------
    project : Project
    root : path
        From where names of pictures and places are meant.
    wish : MovieWish
    path : path
        Of the movie.

    Raises
    ------
    InputError
        If there is no such shot, codec or place, or no picture at all.
    FileError
        If a picture cannot be read.
    """
    _check_shots(project, wish.shots)
    codec = codec_for(wish.codec, path.suffix)
    first = _pictures(project, root, wish.source, wish.place, wish.shots)
    if not any(first.values()):
        what = "trial has a picture" if wish.source == "trials" else "frame is finished"
        raise InputError(f"No {what}, so there is nothing to show.", "Look where frames lie, or take those of trials.")
    fps = project.delivery.fps
    beside: tuple[Moment, ...] = ()
    if wish.second is not None:
        second = _pictures(project, root, wish.second, wish.second_place, first)
        beside = timeline(project, second, fps, trials=wish.second == "trials")
    sizes = [size_of(next(iter(frames.values())).path) for frames in first.values() if frames]
    return MovieOrder(
        timeline(project, first, fps, trials=wish.source == "trials"),
        movie_size(sizes, wish.width),
        fps,
        codec,
        wish.display,
        wish.burned,
        wish.first_frame,
        wish.drop,
        beside,
        wish.layout,
        wish.sound,
    )


def _pictures(project: Project, root: Path, source: Source, place: str, only: Iterable[str]) -> Pictures:
    if source == "trials":
        return trial_pictures(project, root, only)
    return finished_pictures(project, root, place, only)


def _check_shots(project: Project, names: Iterable[str]) -> None:
    known = {shot.name for shot in project.on_screen}
    unknown = [name for name in names if name not in known]
    if unknown:
        raise InputError(f"There is no shot {unknown[0]} in the film.", f"There are {', '.join(sorted(known)[:20])}.")
