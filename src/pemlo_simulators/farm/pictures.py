"""Pictures for thousands of frames from a few that are rendered: real light, with the noise that samples leave. NumPy.

Three frames of each shot are really rendered, small; those between them are blended, and every frame gets noise of its
own, of the variance that was measured in each pixel, for as many samples as the plan takes.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from pemlo.core.cost.along import places_within
from pemlo.core.project.project import Project
from pemlo.core.project.scenes import scene_of
from pemlo.core.project.shots import Shot
from pemlo_simulators.renderer.settings import RenderSettings

F32 = npt.NDArray[np.float32]
SIDE = 160  # px, of the longer side
SAMPLES = 16
SPOTS = (0.0, 0.5, 1.0)


@dataclass(frozen=True)
class ShotPictures:
    """Frames of a shot that were rendered, and the variance of one sample in each pixel, both (3, H, W, 3)."""

    colour: F32
    variance: F32

    def frame(self, place: float, samples: float, seed: int) -> F32:
        """Return a frame at a place of the shot, 0 to 1, with the noise of so many samples, (H, W, 3)."""
        at = place * (len(SPOTS) - 1)
        low = min(int(at), len(SPOTS) - 2)
        part = at - low
        colour = self.colour[low] * (1 - part) + self.colour[low + 1] * part
        variance = self.variance[low] * (1 - part) + self.variance[low + 1] * part
        noise = np.random.default_rng(seed).standard_normal(colour.shape, np.float32)
        return np.asarray(np.maximum(colour + np.sqrt(variance / max(samples, 1.0)) * noise, 0.0), np.float32)


def small_size(project: Project, shot: Shot) -> tuple[int, int]:
    """Return the size of a shot's pictures on the small farm, px."""
    width, height = project.size_of(shot)
    share = min(1.0, SIDE / max(width, height))
    return max(1, round(width * share)), max(1, round(height * share))


class FilmPictures(Mapping[str, ShotPictures]):
    """Pictures of a film's shots, each rendered when it is first asked for."""

    def __init__(self, project: Project) -> None:
        self._project = project
        self._made: dict[str, ShotPictures] = {}

    def __getitem__(self, name: str) -> ShotPictures:
        if name not in self._made:
            self._made[name] = render_pictures(self._project, name)
        return self._made[name]

    def __iter__(self) -> Iterator[str]:
        return (shot.name for shot in self._project.shots)

    def __len__(self) -> int:
        return len(self._project.shots)


def render_pictures(project: Project, name: str) -> ShotPictures:
    """Render the frames of a shot from which the others are made.

    Raises
    ------
    KeyError
        If there is no such shot.
    """
    from pemlo_simulators.renderer.render import render  # noqa: PLC0415 - heavy to load
    from pemlo_simulators.renderer.scenes import SCENES, find_scene  # noqa: PLC0415 - as above

    shot = project.shot(name)
    title = scene_of(shot)
    scene = find_scene(title) if title else SCENES[project.shots.index(shot) % len(SCENES)]
    width, height = small_size(project, shot)
    pictures = []
    for spot in SPOTS:
        frame = min(max(1, round(1 + spot * (shot.frame_count - 1))), scene.frames)
        settings = RenderSettings(scene.name, frame, width, height, samples=SAMPLES, seed=frame)
        pictures.append(render(scene, settings).picture)
    return ShotPictures(
        np.stack([picture.colour for picture in pictures]).astype(np.float32),
        np.stack([picture.variance for picture in pictures]).astype(np.float32) * SAMPLES,
    )


def place_in(shot: Shot, frame: int) -> float:
    """Return where a frame stands in its shot, 0 to 1."""
    return float(places_within(np.array([float(frame)]), shot.first, shot.last)[0])
