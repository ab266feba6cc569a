"""Make the demo project: an invented film, and trials of it that are really rendered here.

./dev demo-data [shots]    writes src/pemlo/demo/tide_clock.pemlo and the pictures beside it

Renders what is missing, and shots that are named anew (half an hour for all). Every trial has a small picture; a frame
of each shot has whole ones of a small size, with their variance, so that it is known how it looks; one frame has larger
ones, to be judged, and one shot a few in a row, to be played.
"""

import sys
import tempfile
import time
from itertools import count
from pathlib import Path

import numpy as np
import numpy.typing as npt

from demo_marks import with_marks
from pemlo.core.appraisal.noise_sources import SOURCES
from pemlo.core.files.small import write_small
from pemlo.core.persistence.document import read_project, write_project
from pemlo.core.pixels.luma import LUMA
from pemlo.core.project.delivery import Delivery, local_moment
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project
from pemlo.core.project.scenes import COLUMN, scene_of
from pemlo.core.project.settings import FrameSettings, ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.trials import Trial
from pemlo_simulators.renderer.exr import Channels, write_exr
from pemlo_simulators.renderer.output import channels_of, shape_of, write_picture
from pemlo_simulators.renderer.render import Rendered, render
from pemlo_simulators.renderer.scenes import SCENES, find_scene
from pemlo_simulators.renderer.settings import RenderSettings, Split
from pemlo_simulators.renderer.settings import switched as fields_of

ZONE = "Europe/Lisbon"
DEMO = Path(__file__).parents[1] / "src/pemlo/demo"
SIZE = (1280, 720)
SHOWN_WIDTH = 320
JUDGED = ("070", 41)
# A few frames in a row of one shot are kept too, to be played: denoised each by itself, they flicker.
PLAYED, PLAYED_FRAMES, PLAYED_SAMPLES = "040", 8, 16
# How each shot looks is seen on pictures so small, in percent of each side.
LOOKED_PERCENT = 12.5
TOO_SMALL = "too small to tell times: shows the look"
# How judged trials are kept: colour as half floats, variance rounded to 5 bits, so that files are small.
KEPT_BITS, HALF_A_BIT = np.uint32(0xFFFC0000), np.uint32(0x00020000)
SPLIT_SHOTS, STILL_SHOTS, CAPPED = {"010": (4, 1, 1), "100": (4, 1, 1)}, ("010", "060"), "060"
MACHINES = (
    Machine(name="desk", count=1, memory_gib=64, hours="Mon-Fri 19:00-08:00, Sat-Sun all day", loss_percent=1),
    Machine(name="blade", count=1, speed=1.6, memory_gib=256, hours="Mon-Fri 21:00-06:00", price_per_hour=2.4),
    Machine(name="old tower", count=1, speed=0.3, memory_gib=32, loss_percent=3),
)
# All is asked for with motion blur; a few trials show what goes without, and other ways to share out rays.
BLURRED = ("motion blur",)
# Shot, scene, samples as asked; with a threshold the most and the least.
SHOTS = (
    ("010", "harbour", ShotSettings(samples=192)),
    ("020", "observatory", ShotSettings(samples=256)),
    ("030", "stairs", ShotSettings(samples=512, min_samples=16, noise_threshold=0.02)),
    ("040", "clock", ShotSettings(samples=256, denoise="frame")),
    ("050", "pendulum", ShotSettings(samples=512, min_samples=16, noise_threshold=0.015, denoise="frame")),
    ("060", "wheels", ShotSettings(samples=256, denoise="frame")),
    ("070", "lamp-glass", ShotSettings(samples=768, min_samples=24, noise_threshold=0.025)),
    ("080", "tube", ShotSettings(samples=512, min_samples=16, noise_threshold=0.02, denoise="frame")),
    ("090", "dust", ShotSettings(samples=256)),
    ("100", "strike", ShotSettings(samples=512, min_samples=16, noise_threshold=0.015, denoise="frame")),
)


def blank() -> Project:
    scenes = {scene.name: scene for scene in SCENES}
    return Project(
        title="The Tide Clock",
        start=local_moment("2031-04-21T10:00", ZONE),
        delivery=Delivery(
            width=SIZE[0],
            height=SIZE[1],
            timezone=ZONE,
            deadline=local_moment("2031-04-24T18:00", ZONE),
            assembly_minutes=90,
            retake_share=0.04,
            currency="EUR",
        ),
        shots=tuple(
            Shot(
                name=name,
                first=1,
                last=scenes[scene].frames,
                asked=asked.replace(switches=BLURRED),
                moves=scenes[scene].moves,
                extra_columns=((COLUMN, scene),),
            )
            for name, scene, asked in SHOTS
        ),
        machines=MACHINES,
    )


def wanted(shot: Shot) -> list[tuple[int, FrameSettings]]:
    """Return what somebody would have timed so far: one shot well, some a little, two not at all."""
    if shot.name in {"020", "090"}:
        return []
    return [*timed(shot), *([] if shot.name == JUDGED[0] else looked_at(shot))]


def looked_at(shot: Shot) -> list[tuple[int, FrameSettings]]:
    """Return the trials that tell how a shot looks: with and without denoising, and a reference."""
    plain = FrameSettings(samples=16, resolution_percent=LOOKED_PERCENT, switches=BLURRED)
    soft = plain.replace(denoise="frame")
    found = [plain, soft, soft, plain.replace(samples=384)]
    if shot.name in SPLIT_SHOTS:
        found.append(plain.replace(split=SPLIT_SHOTS[shot.name]))
    if shot.name in STILL_SHOTS:
        found.append(plain.replace(switches=()))
    return [((shot.first + shot.last) // 2, one) for one in found]


def switched(shot: Shot, low: FrameSettings) -> list[FrameSettings]:
    """Return the trials that tell what other ways of rendering take."""
    found = [low.replace(split=SPLIT_SHOTS[shot.name])] if shot.name in SPLIT_SHOTS else []
    if shot.name in STILL_SHOTS:
        found.append(low.replace(switches=()))
    if shot.name == CAPPED:
        found.append(low.replace(samples=512, most_seconds=2.0))
    return found


def timed(shot: Shot) -> list[tuple[int, FrameSettings]]:
    plan = FrameSettings.model_validate(shot.asked.frame_fields())
    fixed = plan.replace(noise_threshold=None, min_samples=None, denoise="none")
    low, half = fixed.replace(samples=16, resolution_percent=50), fixed.replace(samples=64, resolution_percent=50)
    last, middle = shot.last, (shot.first + shot.last) // 2
    if shot.name == "050":
        return [(middle, plan.replace(noise_threshold=0.06, resolution_percent=50))]
    if shot.name == "070":
        ladder = [(41, fixed.replace(samples=n, resolution_percent=50)) for n in (4, 8, 16, 32, 64, 128)]
        bite = plan.replace(noise_threshold=0.06, resolution_percent=50)
        soft = fixed.replace(samples=32, resolution_percent=50, denoise="frame")
        reference = fixed.replace(samples=512, resolution_percent=50)
        judged = [(41, soft), (41, soft), (41, reference)]
        return [*ladder, (41, fixed.replace(samples=48)), (41, bite), (1, low), (100, low), *judged]
    if shot.name == "040":
        full = plan.replace(samples=48)
        played = plan.replace(samples=PLAYED_SAMPLES, resolution_percent=25)
        run = [(middle + k, played) for k in range(PLAYED_FRAMES)]
        return [(middle, full), (1, low), (middle, low), (middle, half), (last, low), *run]
    adaptive = (
        [(middle, plan.replace(noise_threshold=3 * plan.noise_threshold, resolution_percent=50))]
        if plan.noise_threshold
        else []
    )
    denoised = [(middle, low.replace(denoise="frame"))] if plan.denoise == "frame" and not adaptive else []
    others = [(middle, one) for one in switched(shot, low)]
    return [(middle, half), *adaptive, *denoised, (1, low), (last, low), *others]


def time_one(shot: Shot, frame: int, settings: FrameSettings, number: int, pictures: Path) -> Trial:
    scene = find_scene(scene_of(shot))
    asked = RenderSettings(
        scene.name,
        frame,
        *SIZE,
        resolution_percent=settings.resolution_percent,
        samples=settings.samples,
        min_samples=settings.least_samples,
        noise_threshold=settings.noise_threshold,
        seed=number,
        denoise=settings.denoise,
        seconds=settings.most_seconds,
        split=Split(*settings.split),
        **fields_of(settings.switches),
        by_source=is_judged(shot, frame, settings),
    )
    done = render(scene, asked)
    with tempfile.TemporaryDirectory() as folder:
        header = write_picture(done, Path(folder) / "a.exr", "desk")
    name = f"{shot.name}-{frame:04d}-{number:02d}"
    write_small(done.picture.colour, pictures / f"{name}.small.png", SHOWN_WIDTH)
    if asked.by_source or settings.resolution_percent == LOOKED_PERCENT:
        write_judged(done, pictures / f"{name}.exr", header)
    elif is_played(shot, settings):
        write_kept(pictures / f"{name}.exr", colour_of(done), header)
    times = {
        key: float(f"{header[key]:.4g}")
        for key in header
        if key.endswith("seconds") and key not in {"wall_seconds", "most_seconds"}
    }
    return Trial(
        shot=shot.name,
        frame=frame,
        machine="desk",
        seed=number,
        mean_samples=float(f"{done.mean_samples:.5g}"),
        noise=float(f"{header['noise']:.4g}"),
        noise_shape=shape_of(done),
        picture=f"pictures/{name}.exr",
        memory_gib=float(f"{header['memory_gib']:.3g}"),
        disk_mib=float(f"{header['disk_mib']:.3g}"),
        left_out=TOO_SMALL if settings.resolution_percent == LOOKED_PERCENT else "",
        **settings.frame_fields(),
        **times,
    )


def is_judged(shot: Shot, frame: int, settings: FrameSettings) -> bool:
    """Whether the whole picture of a trial is kept."""
    return (shot.name, frame) == JUDGED and settings.samples in {8, 32, 128, 512} and settings.noise_threshold is None


def rounded(names: tuple[str, ...], pixels: npt.NDArray[np.float32]) -> npt.NDArray[np.float32]:
    """Return pixels with their variances rounded."""
    coarse = ((pixels.view(np.uint32) + HALF_A_BIT) & KEPT_BITS).view(np.float32)
    return np.where([name.startswith("variance") for name in names], coarse, pixels)


def is_played(shot: Shot, settings: FrameSettings) -> bool:
    """Whether a trial is one of the frames that are kept to be played."""
    return shot.name == PLAYED and settings.samples == PLAYED_SAMPLES and settings.resolution_percent == 25


def colour_of(done: Rendered, more: tuple[str, ...] = ()) -> dict[str, npt.NDArray[np.float32]]:
    """Return the channels of colour, and some more."""
    whole = channels_of(done)
    return {channel: whole.pixels[..., whole.names.index(channel)] for channel in ("R", "G", "B", *more)}


def write_judged(done: Rendered, path: Path, header: dict[str, object]) -> None:
    """Write what Judge reads: colour, variance, and of each source its brightness and variance."""
    whole = channels_of(done)
    luma = np.array(LUMA, np.float32)
    wanted = colour_of(done, ("variance.R", "variance.G", "variance.B"))
    if done.settings.by_source and done.settings.denoise == "none" and done.settings.samples == 32:
        for source in SOURCES:
            parts = [whole.pixels[..., whole.names.index(f"{source}.{letter}")] for letter in "RGB"]
            wanted[f"{source}.Y"] = np.stack(parts, axis=-1) @ luma
            wanted[f"variance.{source}.Y"] = whole.pixels[..., whole.names.index(f"variance.{source}.Y")]
    write_kept(path, wanted, header)


def write_kept(path: Path, wanted: dict[str, npt.NDArray[np.float32]], header: dict[str, object]) -> None:
    """Write channels as small as they can be."""
    pixels = rounded(tuple(wanted), np.stack(list(wanted.values()), axis=-1).astype(np.float32))
    kept = {name: value for name, value in header.items() if isinstance(value, str | int | float)}
    write_exr(path, Channels(tuple(wanted), pixels, kept))


def main() -> None:
    pictures, file = DEMO / "pictures", DEMO / "tide_clock.pemlo"
    pictures.mkdir(exist_ok=True)
    project = blank()
    before: dict[tuple[str, int, FrameSettings], list[Trial]] = {}
    seeds = {shot.name: count(1) for shot in project.shots}
    for trial in read_project(file).trials:
        if trial.shot not in sys.argv[1:]:
            settings = FrameSettings.model_validate(trial.frame_fields())
            before.setdefault((trial.shot, trial.frame, settings), []).append(trial)
            seeds[trial.shot] = count(max(next(seeds[trial.shot]), (trial.seed or 0) + 1))
    # The first frame of a process also loads and compiles: it is rendered for nothing.
    render(SCENES[0], RenderSettings(SCENES[0].name, 1, 16, 9, samples=1, denoise="frame"))
    trials: list[Trial] = []
    for shot in project.shots:
        for frame, settings in wanted(shot):
            kept = before.get((shot.name, frame, settings), [])
            if kept:
                trials.append(kept.pop(0))
                continue
            began = time.monotonic()
            trials.append(time_one(shot, frame, settings, next(seeds[shot.name]), pictures))
            took = f"{trials[-1].seconds:.1f} s, wall {time.monotonic() - began:.1f} s"
            print(shot.name, frame, settings.samples, settings.noise_threshold, took, flush=True)
    named = {Path(trial.picture).stem for trial in trials}
    for old in pictures.iterdir():
        if old.name.split(".")[0] not in named:
            old.unlink()
    write_project(with_marks(project.replace(trials=tuple(trials)), DEMO), file)


if __name__ == "__main__":
    main()
