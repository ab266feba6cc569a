"""Plays a run of the small farm: writes each frame when its time has come, and what goes wrong with it. Files only."""

import os
import time
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from zlib import crc32

import numpy as np

from pemlo.core.arrivals.farm_clock import PREPARES, FarmClock, write_clock
from pemlo.core.arrivals.farm_faults import CLOCK_OFF_S, Fault, of_frame
from pemlo.core.arrivals.place import FrameName, FramePlace
from pemlo.core.errors import FileError
from pemlo.core.files.safe_paths import inside
from pemlo.core.forecast.jobs import early_settings
from pemlo.core.progress import Monitor
from pemlo.core.project.project import Project
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.timed_sizes import rendered_size
from pemlo.core.units import counted
from pemlo_simulators.farm.logs import Style, log_lines
from pemlo_simulators.farm.pictures import ShotPictures, place_in, small_size
from pemlo_simulators.farm.schedule import Delivered
from pemlo_simulators.renderer.exr import Channels, write_exr

LOG_FILE = "small-farm.log"
TICK_S, TELLS_EVERY_S = 0.05, 0.5
KEPT_OF_TRUNCATED = 0.6


@dataclass
class FarmRun:
    """A run that is played.

    Attributes
    ----------
    project : Project
    into : path
        Folder; the place is meant from it.
    place : FramePlace
    pictures : mapping of str to ShotPictures
    coming : sequence of Delivered
    faults : sequence of Fault
    speed : float
        Seconds on the farm in one on the wall.
    log : str, optional
        Style; no log is written without.
    headers : bool
        Whether pictures say what they took.
    replan : callable, optional
        Is asked now and then, with the run and its time; puts what is coming in order anew if the plan has changed.
    delivered : dict of (str, int, bool) to float
        When each frame was delivered, by shot, number, and whether of the first pass.
    """

    project: Project
    into: Path
    place: FramePlace
    pictures: Mapping[str, ShotPictures]
    coming: Sequence[Delivered]
    faults: Sequence[Fault] = ()
    speed: float = 600.0
    log: Style | None = None
    headers: bool = True
    replan: "Callable[[FarmRun, float], bool] | None" = None
    delivered: dict[tuple[str, int, bool], float] = field(default_factory=dict, init=False)
    written: int = field(default=0, init=False)

    def play(
        self,
        monitor: Monitor,
        told: Callable[[Delivered], None] | None = None,
        wall: Callable[[], float] = time.time,
        rest: Callable[[float], None] = time.sleep,
        says: Callable[[str], None] | None = None,
    ) -> None:
        """Write frames as their times come, until all are written.

        Parameters
        ----------
        monitor : Monitor
        told : callable, optional
            Is told of each frame.
        wall, rest : callable
            The clock, and how time passes.
        says : callable, optional
            Is told what is rendered before a shot's first frame, and that its frames arrive.

        Raises
        ------
        Cancelled
            From the monitor.
        FileError
            If a frame cannot be written.
        """
        self.into.mkdir(parents=True, exist_ok=True)
        at, last_told, number = 0.0, -np.inf, 0
        shown: set[str] = set()
        while True:
            if wall() - last_told >= TELLS_EVERY_S:
                last_told = wall()
                self._tell(at, last_told)
                if self.replan is not None and self.replan(self, at):
                    number = 0
            if number == len(self.coming):
                break
            delivered = self.coming[number]
            if at < delivered.at:
                monitor.step(number / len(self.coming), f"{number} of {len(self.coming)} frames")
                step = min(TICK_S, (delivered.at - at) / self.speed)
                rest(step)
                at = min(at + step * self.speed, delivered.at)
                continue
            if delivered.shot not in shown:  # its pictures are rendered first: meanwhile the clock stands
                shown.add(delivered.shot)
                self._tell(at, wall(), speed=0.0)
                if says:
                    says(f"{PREPARES} of {delivered.shot}, shot {len(shown)} of {len(self.project.shots)}")
                _ = self.pictures[delivered.shot]
                last_told = -np.inf
                if says:
                    says(f"Frames of {delivered.shot} arrive")
            self.write(delivered)
            number += 1
            if told:
                told(delivered)
        self._tell(at, wall())

    def _tell(self, at: float, wall: float, speed: float | None = None) -> None:
        write_clock(self.into, FarmClock(self.project.start, self.speed if speed is None else speed, at, wall))

    def path_of(self, delivered: Delivered) -> Path:
        """Return where a frame is written.

        Raises
        ------
        FileError
            If that is not in the folder of the run.
        """
        return inside(self.into, self.place.path(FrameName(delivered.shot, delivered.frame)))

    def refuse_what_is_there(self) -> None:
        """Refuse to begin where frames lie that it would write over, or where it would write out of its folder.

        Raises
        ------
        FileError
        """
        existing = sorted(
            {path for delivered in self.coming if (path := self.path_of(delivered)).exists() or path.is_symlink()}
        )
        if existing:
            raise FileError(
                f"{counted(len(existing), 'frame')} {'is' if len(existing) == 1 else 'are'} in {self.into} already, "
                f"such as {existing[0].name}.",
                "Nothing was written. Name another folder, or take them away.",
                "there already",
            )

    def write(self, delivered: Delivered) -> None:
        """Write a frame as it comes: its picture, its times, its lines in the log."""
        self.delivered[delivered.shot, delivered.frame, delivered.early] = delivered.at
        wrong = of_frame(self.faults, delivered.shot, delivered.frame)
        shot = self.project.shot(delivered.shot)
        settings = (early_settings(self.project, shot) if delivered.early else None) or shot.settings
        if self.log:
            with inside(self.into, LOG_FILE).open("a", encoding="utf-8") as file:
                lines = log_lines(self.log, delivered, self.project.start, settings.samples)
                file.writelines(f"{line}\n" for line in lines)
        if wrong == "lost":
            return
        path = self.path_of(delivered)
        path.parent.mkdir(parents=True, exist_ok=True)
        if delivered.disk_full:
            path.write_bytes(b"")
        else:
            write_exr(path, self._channels(delivered, settings, wrong))
            if wrong == "truncated":
                with path.open("r+b") as file:
                    file.truncate(int(path.stat().st_size * KEPT_OF_TRUNCATED))
        off = CLOCK_OFF_S if any(f.kind == "clock" and f.machine == delivered.machine for f in self.faults) else 0.0
        moment = self.project.start.timestamp() + delivered.at + off
        os.utime(path, (moment, moment))
        self.written += 1

    def _channels(self, delivered: Delivered, settings: ShotSettings, wrong: str | None) -> Channels:
        shot = self.project.shot(delivered.shot)
        seed = crc32(f"{delivered.shot}/{delivered.frame}".encode())
        pixels = self.pictures[delivered.shot].frame(place_in(shot, delivered.frame), settings.samples, seed)
        if wrong == "black":
            pixels = np.zeros_like(pixels)
        if wrong == "size":
            pixels = pixels[: pixels.shape[0] // 2, : pixels.shape[1] // 2]
        width, height = rendered_size(self.project.size_of(shot), settings.resolution_percent)
        small = small_size(self.project, shot)
        header: dict[str, str | float | int] = {
            "stand_in_of": f"{width}x{height}",
            "stand_in_size": f"{small[0]}x{small[1]}",
        }
        if self.headers:
            header |= {
                "scene": shot.name, "frame": delivered.frame, "seconds": float(f"{delivered.seconds:.6g}"),
                "machine": delivered.machine, "samples": settings.samples, "denoise": settings.denoise,
                "min_samples": settings.least_samples, "noise_threshold": settings.noise_threshold or 0.0,
                "resolution_percent": settings.resolution_percent, "switches": ", ".join(settings.switches) or "none",
                "split": ",".join(map(str, settings.split)), "seed": delivered.frame,
                "most_seconds": settings.most_seconds or 0.0, "keep": " ".join(settings.keep) or "nothing",
            }  # fmt: skip
        return Channels(("R", "G", "B"), np.ascontiguousarray(pixels), header)
