"""What is shown at each moment of a movie: pictures, held or mixed where none was planned, slates where one is missing.

Pure, but for looking which files are there.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

from pemlo.core.arrivals.place import FrameName, place_of
from pemlo.core.errors import InputError
from pemlo.core.files.trial_pictures import picture_path
from pemlo.core.project.project import Project
from pemlo.core.project.reference import cleanest
from pemlo.core.project.shots import Shot
from pemlo.core.project.spelling import settings_words


@dataclass(frozen=True)
class Pictured:
    """A picture of a frame, and how it was rendered."""

    path: Path
    words: str


Pictures = Mapping[str, Mapping[int, Pictured]]  # of shots, by frame


@dataclass(frozen=True)
class Moment:
    """What is shown at one moment.

    Attributes
    ----------
    shot : str
    frame : int
        Of the shot.
    parts : tuple of (path, float)
        Pictures and their shares of the light; empty where one is missing.
    words : str
        How it was rendered; or what is missing.
    """

    shot: str
    frame: int
    parts: tuple[tuple[Path, float], ...]
    words: str

    @property
    def missing(self) -> bool:
        return not self.parts


def finished_pictures(project: Project, root: Path, pattern: str = "", only: Iterable[str] = ()) -> Pictures:
    """Return the frames of shots that are there.

    Parameters
    ----------
    project : Project
    root : path
        From where places are meant.
    pattern : str
        Where frames lie; where they arrive unless given.
    only : iterable of str
        Shots that are looked for; all unless given.

    Raises
    ------
    InputError
        If no place is known, or it is none.
    """
    wanted, found = set(only), {}
    for shot in project.on_screen:
        if wanted and shot.name not in wanted:
            continue
        text = pattern or shot.place or project.watching.place
        if not text:
            raise InputError(f"Where frames of {shot.name} lie is not known.", "Say where they arrive, in Watch.")
        try:
            place = place_of(text)
        except ValueError as error:
            raise InputError(f"Where frames lie: {error}.") from error
        base = Path("/") if text.startswith("/") else root
        paths = {frame: base / place.path(FrameName(shot.name, frame)) for frame in frames_of(shot)}
        words = settings_words(shot.settings)
        found[shot.name] = {frame: Pictured(path, words) for frame, path in paths.items() if path.is_file()}
    return found


def trial_pictures(project: Project, folder: Path, only: Iterable[str] = ()) -> Pictures:
    """Return for each shot the frames of which a trial has a picture: of several the cleanest."""
    wanted, found = set(only), {}
    for shot in project.on_screen:
        if wanted and shot.name not in wanted:
            continue
        pictured = [trial for trial in project.trials_of(shot.name) if picture_path(trial, folder) is not None]
        mine: dict[int, Pictured] = {}
        for frame in sorted({trial.frame for trial in pictured}):
            best = cleanest([trial for trial in pictured if trial.frame == frame])
            path = None if best is None else picture_path(best, folder)
            if best is not None and path is not None:
                mine[frame] = Pictured(path, f"trial of frame {frame}: {settings_words(best)}")
        found[shot.name] = mine
    return found


def frames_of(shot: Shot) -> tuple[int, ...]:
    """Return the frames of a shot as the film has them."""
    return tuple(shot.frames)


def timeline(project: Project, pictures: Pictures, fps: float, *, trials: bool = False) -> tuple[Moment, ...]:
    """Return what is shown at each moment, shot by shot in the order of the film.

    Parameters
    ----------
    project : Project
    pictures : mapping
        Of the shots that are shown.
    fps : float
        Of the movie. Shots of another rate keep their seconds.
    trials : bool
        Whether pictures are of trials: then each stands until the next, and nothing counts as missing but a shot
        without any.
    """
    found: list[Moment] = []
    for shot in project.on_screen:
        if shot.name not in pictures:
            continue
        frames = frames_of(shot)
        rate = project.rate_of(shot)
        moments = max(1, round(len(frames) / rate * fps))
        shown = _of_trials(shot, frames, pictures) if trials else _of_frames(shot, frames, pictures)
        found += [shown[min(int(k * rate / fps + 1e-9), len(frames) - 1)] for k in range(moments)]
    return tuple(found)


def _of_frames(shot: Shot, frames: Sequence[int], pictures: Pictures) -> list[Moment]:
    pictured, step = pictures[shot.name], shot.settings.frame_step
    planned = frames[:1] if shot.still else frames[::step]
    shown = []
    for number, frame in enumerate(frames):
        at = min(number // step, len(planned) - 1)
        before = planned[at]
        after = planned[at + 1] if at + 1 < len(planned) else before
        share = (number - at * step) / step if shot.settings.between == "blend" and after != before else 0.0
        wanted = ((before, 1.0 - share), (after, share)) if share else ((before, 1.0),)
        lacks = [one for one, _ in wanted if one not in pictured]
        if lacks:
            shown.append(Moment(shot.name, frame, (), f"{shot.name}: frame {lacks[0]} is missing"))
        else:
            parts = tuple((pictured[one].path, part) for one, part in wanted)
            shown.append(Moment(shot.name, frame, parts, pictured[before].words))
    return shown


def _of_trials(shot: Shot, frames: Sequence[int], pictures: Pictures) -> list[Moment]:
    pictured = pictures[shot.name]
    if not pictured:
        words = f"{shot.name}: no trial has a picture"
        return [Moment(shot.name, frame, (), words) for frame in frames]
    shown = []
    for frame in frames:
        before = max((one for one in pictured if one <= frame), default=min(pictured))
        shown.append(Moment(shot.name, frame, ((pictured[before].path, 1.0),), pictured[before].words))
    return shown
