"""Renders one frame, stage by stage, and times each stage. Any thread, but one frame at a time in a process."""

import os
import resource
import time
from collections.abc import Callable, Iterator
from contextlib import suppress
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo.core.progress import Monitor, Unwatched
from pemlo.core.threads import run_in_parts
from pemlo.core.units import GIB
from pemlo_simulators.renderer import denoise
from pemlo_simulators.renderer.adaptive import next_samples
from pemlo_simulators.renderer.clock import Clock
from pemlo_simulators.renderer.film import (
    BOX_FILTER,
    GAUSSIAN_FILTER,
    Frame,
    Picture,
    Sums,
    add_samples,
    blank_film,
    develop,
)
from pemlo_simulators.renderer.film_file import write_film
from pemlo_simulators.renderer.kept import KeptData
from pemlo_simulators.renderer.light_stage import make_lights
from pemlo_simulators.renderer.lights import Lights
from pemlo_simulators.renderer.paths import Rules
from pemlo_simulators.renderer.scene import Scene
from pemlo_simulators.renderer.settings import RenderSettings, check
from pemlo_simulators.renderer.surfaces import ggx_albedo
from pemlo_simulators.renderer.world import World, pack

_STATUS, _CLEAR = Path("/proc/self/status"), Path("/proc/self/clear_refs")
_FORGET_PEAK = "5"
_PEAK = "VmHWM:"


def forget_peak() -> None:
    """Count from now on; where the system does not allow that, the peak stays that of the whole process."""
    with suppress(OSError):
        _CLEAR.write_text(_FORGET_PEAK)


def peak_gib() -> float:
    """Return the most that was held, GiB."""
    with suppress(OSError):
        for line in _STATUS.read_text().splitlines():
            if line.startswith(_PEAK):
                return int(line.split()[1]) * 1024 / GIB
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024 / GIB


_CACHE_AFTER = 2
_CALL_SECONDS = 0.12
_FIRST_CALL_SAMPLES = 20_000
_LEAST_STEP = 4

# Stages that use all threads; the others use one.
_SHARED_OUT = ("light", "trace", "denoise")

Preview = Callable[[Sums], None]  # of what there is so far


def machine_seconds(clock: Clock, threads: int) -> dict[str, float]:
    """Return what each stage takes when the machine does nothing else, s.

    Processor seconds, divided by the threads where a stage uses them all. On the wall the same frame takes twice as
    long beside another program, in these seconds a tenth or two more (docs/decisions/0005-which-seconds.md).
    """
    return {stage: seconds / threads if stage in _SHARED_OUT else seconds for stage, seconds in clock.processor.items()}


@dataclass(frozen=True)
class Rendered:
    """A frame that was rendered.

    Attributes
    ----------
    settings : RenderSettings
    picture : Picture
        As traced; `picture.colour` is denoised if that was asked.
    noisy : (H, W, 3) float32
        Colour before denoising.
    film : Sums
        Can be topped up by `trace`.
    clock : Clock
    threads : int
    read_back : tuple of str
        Stages whose data were there from an earlier frame and were used.
    memory_gib : float
        The most that the process held.
    lost : int
        Samples that came to no number.
    """

    settings: RenderSettings
    picture: Picture
    noisy: npt.NDArray[np.float32]
    film: Sums
    clock: Clock
    threads: int
    read_back: tuple[str, ...]
    memory_gib: float

    @property
    def lost(self) -> int:
        return int(self.film.lost.sum())

    @property
    def mean_samples(self) -> float:
        return float(self.film.taken.mean())


def render(
    scene: Scene,
    settings: RenderSettings,
    monitor: Monitor | None = None,
    kept_in: Path | None = None,
    preview: Preview | None = None,
    film: Sums | None = None,
    unfinished: Path | None = None,
    before: Clock | None = None,
) -> Rendered:
    """Render a frame up to, but not including, its writing.

    Parameters
    ----------
    scene : Scene
        Of the name in `settings`.
    settings : RenderSettings
    monitor : Monitor, optional
        Hears of progress; may stop the work.
    kept_in : path, optional
        Folder of kept data; none are kept without.
    preview : callable, optional
        Is shown what there is after each pass; what it takes is no part of the frame.
    film : Sums, optional
        A film of the same frame to top up; it is changed in place.
    unfinished : path, optional
        Where the unfinished frame is written, as often as the settings say.
    before : Clock, optional
        What the samples of `film` took.

    Raises
    ------
    InputError
        If the settings ask for what cannot be.
    FileError
        If kept data cannot be read or written.
    Cancelled
        From the monitor.
    """
    check(settings, scene.frames)
    how = denoise.parse(settings.denoise)
    watch = monitor or Unwatched()
    threads = settings.threads or os.cpu_count() or 1
    clock = Clock()
    if before is not None:
        clock.go_on_from(before)
    forget_peak()
    kept_data = KeptData(kept_in, scene.name) if kept_in else None
    read_back = tuple(stage for stage in settings.keep if kept_data is not None and kept_data.has(stage))
    rules = Rules(
        scene.bounces,
        scene.exposure,
        scene.cap,
        settings.split.shadow,
        settings.split.gloss,
        settings.split.through,
        _CACHE_AFTER,
    )
    watch.step(0.0, "Preparing the geometry")
    with clock.stage("prepare"):
        world = _world(scene, settings, kept_data)
    watch.step(0.0, "Preparing the light")
    with clock.stage("light"):
        lights = _lights(scene, settings, world, rules, kept_data, threads)
    film = film or blank_film(settings)
    with clock.stage("trace"):
        save = _Saver(unfinished, settings, film, clock) if unfinished and settings.saves else None
        trace(scene, settings, world, lights, rules, film, threads, watch, _apart(clock, preview), save)
    picture = develop(film)
    noisy = picture.colour
    held = peak_gib()  # neighbours that are rendered for the denoiser count anew
    if how:
        neighbours = [
            _neighbour(scene, settings, frame, kept_in, watch) for frame in how.neighbours(settings.frame, scene.frames)
        ]
        watch.step(1.0, "Denoising")
        with clock.stage("denoise"):
            picture = replace(picture, colour=denoise.denoised(picture, neighbours, how, threads))
    return Rendered(settings, picture, noisy, film, clock, threads, read_back, max(held, peak_gib()))


class _Saver:
    """Writes the sums of an unfinished frame, each time another part of its samples is there."""

    def __init__(self, path: Path, settings: RenderSettings, film: Sums, clock: Clock) -> None:
        self._path, self._settings, self._film, self._clock = path, settings, film, clock
        self._written = 0

    def __call__(self, done: float) -> None:
        saves = self._settings.saves
        if self._written < saves and done >= (self._written + 1) / (saves + 1):
            self._written += 1
            with self._clock.stage("write"):
                write_film(self._path, self._settings, self._film, self._clock.so_far())


def _neighbour(scene: Scene, settings: RenderSettings, frame: int, kept_in: Path | None, monitor: Monitor) -> Picture:
    """Render a frame that the denoiser wants to look at. In a whole shot it is there already: it is not timed."""
    monitor.step(1.0, f"Rendering frame {frame} for the denoiser")
    return render(scene, replace(settings, frame=frame, denoise="none"), kept_in=kept_in).picture


def _world(scene: Scene, settings: RenderSettings, kept_data: KeptData | None) -> World:
    keep = kept_data is not None and "prepare" in settings.keep
    world = kept_data.read_world() if kept_data and keep else None
    if world is None:
        world = pack(scene.build(*scene.shutter(settings.frame, blur=settings.motion_blur)))
        if kept_data and keep:
            kept_data.write("prepare", world)
    return world


def _lights(
    scene: Scene, settings: RenderSettings, world: World, rules: Rules, kept_data: KeptData | None, threads: int
) -> Lights:
    keep = kept_data is not None and "light" in settings.keep
    lights = kept_data.read_lights() if kept_data and keep else None
    if lights is None:
        lights = make_lights(world, scene.room, scene.sky(settings.frame), ggx_albedo(), rules, threads)
        if kept_data and keep:
            kept_data.write("light", lights)
    if len(lights.of_shape) != len(world.kinds):
        # Kept from a frame with other shapes: which shapes the lights were is no longer known.
        lights = lights._replace(of_shape=np.full(len(world.kinds), -1, np.int32))
    return lights


def _apart(clock: Clock, preview: Preview | None) -> Preview | None:
    """Return a preview that takes no time on the clock."""
    if preview is None:
        return None

    def shown(film: Sums) -> None:
        with clock.apart():
            preview(film)

    return shown


def trace(
    scene: Scene,
    settings: RenderSettings,
    world: World,
    lights: Lights,
    rules: Rules,
    film: Sums,
    threads: int,
    monitor: Monitor,
    preview: Preview | None = None,
    save: Callable[[float], None] | None = None,
) -> None:
    """Add samples to a film until the settings are met. Parameters as of `render`; `save` hears of what is done."""
    width, height = settings.rendered_size()
    left, top, _, _ = settings.rendered_region()
    kind, filter_width = (GAUSSIAN_FILTER, 0.45) if settings.gaussian_filter else (BOX_FILTER, 0.5)
    seed = (settings.seed * 1_000_003 + settings.frame) % 2**63
    frame = Frame(width, height, left, top, kind, filter_width, seed)
    camera, sky = scene.cameras(settings.frame, width / height, blur=settings.motion_blur), scene.sky(settings.frame)
    add = _Adder(world, lights, ggx_albedo(), sky, camera, rules, frame, film, threads)
    # As trials are timed: what the machine would take with nothing beside, so that a cap leaves the same noise.
    end = time.process_time() + threads * (settings.seconds or np.inf)
    for pixels, wanted in _passes(settings, film):
        for part_pixels, part_wanted in add.in_parts(pixels, wanted):
            monitor.step(_done(settings, film), "Tracing")
            add(part_pixels, part_wanted)
            if save:
                save(_done(settings, film))
            if time.process_time() > end:
                return
        if preview:
            preview(film)


class _Adder:
    """Calls the compiled loop in parts short enough for progress and stopping."""

    def __init__(
        self,
        world: World,
        lights: Lights,
        table: Floats,
        sky: Floats,
        camera: Floats,
        rules: Rules,
        frame: Frame,
        film: Sums,
        threads: int,
    ) -> None:
        self._threads = threads
        self._scene = (world, lights, table, sky, camera, rules, frame, film)
        self._film = film
        self._samples_per_call = _FIRST_CALL_SAMPLES

    def __call__(self, pixels: npt.NDArray[np.int64], wanted: npt.NDArray[np.int32]) -> None:
        samples = int((wanted - self._film.taken.ravel()[pixels]).sum())
        start = time.perf_counter()
        run_in_parts(
            self._threads, len(pixels), lambda first, end: add_samples(*self._scene, pixels, wanted, first, end)
        )
        rate = samples / max(time.perf_counter() - start, 1e-4)
        self._samples_per_call = max(_FIRST_CALL_SAMPLES, int(rate * _CALL_SECONDS))

    def in_parts(
        self, pixels: npt.NDArray[np.int64], wanted: npt.NDArray[np.int32]
    ) -> Iterator[tuple[npt.NDArray[np.int64], npt.NDArray[np.int32]]]:
        first = 0
        while first < len(pixels):
            each = max(1, int((wanted[first:] - self._film.taken.ravel()[pixels[first:]]).mean()))
            end = first + max(1, self._samples_per_call // each)
            yield pixels[first:end], wanted[first:end]
            first = end


def _passes(settings: RenderSettings, film: Sums) -> Iterator[tuple[npt.NDArray[np.int64], npt.NDArray[np.int32]]]:
    """Yield pixels and the samples they should have, pass by pass, so that the picture refines as it comes."""
    everything = np.arange(film.taken.size)
    if settings.noise_threshold is None:
        reached = int(film.taken.min())
        while reached < settings.samples:
            reached = min(settings.samples, max(1, 2 * reached))
            yield everything, np.full(film.taken.size, reached, np.int32)
        return
    while True:
        step = max(_LEAST_STEP, int(film.taken.max()) // 8)
        pixels, wanted = next_samples(film, settings.noise_threshold, settings.min_samples, settings.samples, step)
        if not len(pixels):
            return
        yield pixels, wanted


def _done(settings: RenderSettings, film: Sums) -> float:
    """Return how much of the tracing is done at least: the most samples may not be needed."""
    return float(film.taken.mean()) / settings.samples
