"""Speed and memory of measuring and showing pictures of 3840×2160 px: the last table of `./dev bench`."""

import os
import resource
import statistics
import tempfile
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Self

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
import numpy.typing as npt
from PySide6.QtCore import QPointF
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QApplication
from scipy.ndimage import uniform_filter

from pemlo.app.jobs import Jobs
from pemlo.core.files.picture_file import ReadOptions
from pemlo.core.files.sequence import Sequence
from pemlo.core.measure.frame import MeasureRequest, measure
from pemlo.core.measure.scores import flip, ssim_and_psnr
from pemlo.core.pixels.curve import to_display
from pemlo.core.pixels.display import Srgb
from pemlo.core.pixels.screen import difference, reduced, shown
from pemlo.core.pixels.source import ArraySource
from pemlo.gui.judge.measure.measuring import MeasureConditions
from pemlo.gui.judge.playback.player import Player
from pemlo.gui.judge.viewer.canvas import Canvas
from pemlo.gui.judge.viewer.painting import Sizes
from pemlo.gui.judge.viewer.placement import Mode
from pemlo.gui.judge.viewer.reader import sizes_of
from pemlo_simulators.renderer.exr import Channels, write_exr

WIDTH, HEIGHT = 3840, 2160
F32 = npt.NDArray[np.float32]


def pair() -> tuple[F32, F32, F32, F32]:
    """Return a noisy picture and a cleaner one, each with its variance."""
    dice = np.random.default_rng(1)
    y, x = np.mgrid[0:HEIGHT, 0:WIDTH].astype(np.float32)
    clean = (0.25 + 0.2 * np.sin(x / 97) * np.cos(y / 61))[..., None] * np.array([1.0, 0.8, 0.6], np.float32)
    clean = clean.astype(np.float32)
    made = []
    for sd in (0.02, 0.004):
        noise = dice.standard_normal(clean.shape, np.float32)
        made += [clean + np.float32(sd) * noise, np.full_like(clean, sd**2)]
    return made[0], made[1], made[2], made[3]


def plainly(noisy: F32, variance: F32, clean: F32, clean_variance: F32) -> tuple[float, float, float]:
    """Return error, grain and softening as one would write them down, with NumPy and SciPy alone."""

    def codes(linear: F32) -> F32:
        return np.asarray(255 * to_display(linear), np.float32)

    def spread(mean: F32, noise: F32) -> F32:
        nodes, weights = np.polynomial.hermite_e.hermegauss(7)
        weights = weights / weights.sum()
        sd = np.sqrt(noise)
        first = second = np.zeros_like(mean)
        for node, weight in zip(nodes, weights, strict=True):
            value = codes(mean + np.float32(node) * sd)
            first, second = first + weight * value, second + weight * value**2
        return np.asarray(second - first**2, np.float32)

    wanted = codes(clean)
    error = uniform_filter(((codes(noisy) - wanted) ** 2).mean(axis=-1), 64)[32::64, 32::64]
    grain = uniform_filter(spread(clean, variance).mean(axis=-1), 64)[32::64, 32::64]
    own = uniform_filter(spread(clean, clean_variance).mean(axis=-1), 64)[32::64, 32::64]
    total = error - own
    return float(total.mean()) ** 0.5, float(grain.mean()) ** 0.5, float(np.maximum(total - grain, 0).mean()) ** 0.5


def timed(work: Callable[[], object], times: int = 3) -> float:
    """Return the median seconds of some runs, after one to warm up."""
    work()
    taken = []
    for _ in range(times):
        began = time.perf_counter()
        work()
        taken.append(time.perf_counter() - began)
    return statistics.median(taken)


def resident_mib() -> float:
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * resource.getpagesize() / 2**20


class Highest:
    """Watches the most memory that the process holds."""

    def __enter__(self) -> Self:
        self.mib, self._stop = resident_mib(), threading.Event()
        self._thread = threading.Thread(target=self._watch)
        self._thread.start()
        return self

    def _watch(self) -> None:
        while not self._stop.wait(0.01):
            self.mib = max(self.mib, resident_mib())

    def __exit__(self, *_: object) -> None:
        self._stop.set()
        self._thread.join()


def redraws_a_second(images: list[npt.NDArray[np.uint32]]) -> float:
    """Return how often the canvas is painted while a pair of 4K is moved."""
    app = QApplication.instance() or QApplication([])
    assert app is not None
    canvas = Canvas()
    canvas.resize(1130, 620)
    sizes = {}
    for side, whole in zip(("left", "right"), images, strict=True):
        half = reduced(whole)
        sizes[side] = sizes_of((whole, half, reduced(half)))
    canvas.show_pictures(sizes)
    target = QImage(canvas.size(), QImage.Format.Format_RGB32)
    rates = []
    for zoom in (0.25, 1.0, 3.0):
        canvas.set_zoom(zoom)
        began, count = time.perf_counter(), 0
        while time.perf_counter() - began < 1.0:
            canvas.placement.centre += QPointF(3, 2)
            canvas.render(target)
            count += 1
        rates.append(count)
    return float(min(rates))


@dataclass(frozen=True)
class Played:
    """How a pair of sequences played: seconds to read a frame of both, frames that were due, and that were late."""

    read_seconds: float
    due: int
    dropped: int


def play(colour: F32, count: int = 10, fps: float = 24.0, seconds: float = 5.0) -> Played:
    """Play two sequences of half-float EXR, side by side, again and again."""
    app = QApplication.instance() or QApplication([])
    assert app is not None
    canvas, jobs = Canvas(), Jobs()
    canvas.resize(1130, 620)
    canvas.show_mode(Mode.BESIDE)
    with tempfile.TemporaryDirectory() as folder:
        paths = {frame: Path(folder) / f"a.{frame:04d}.exr" for frame in range(1, count + 1)}
        for frame, path in paths.items():
            write_exr(path, Channels(("R", "G", "B"), np.roll(colour, 8 * frame, axis=1), {}))
        player = Player(jobs, lambda: MeasureConditions(Srgb(), ReadOptions()))

        def paint(_frame: int, sizes: dict[str, Sizes]) -> None:
            canvas.show_pictures(sizes)
            canvas.render(QImage(canvas.size(), QImage.Format.Format_RGB32))

        player.shown.connect(paint)
        began = time.perf_counter()
        player.show_runs({"left": Sequence("a", paths), "right": Sequence("b", paths)}, fps, 1)
        while player.ahead[0] < count:
            QApplication.processEvents()
        taken = (time.perf_counter() - began) / count
        player.play()
        until = time.perf_counter() + seconds
        while time.perf_counter() < until:
            QApplication.processEvents()
        player.stop()
    jobs.shut_down()
    return Played(taken, player.tally.due, player.tally.dropped)


def main() -> None:
    noisy, variance, clean, clean_variance = pair()
    asked = MeasureRequest(ArraySource(noisy, variance), reference=ArraySource(clean, clean_variance))
    before = resident_mib()
    with Highest() as highest:
        ours = timed(lambda: measure(asked))
    plain = timed(lambda: plainly(noisy, variance, clean, clean_variance), 1)
    one, other = ArraySource(noisy), ArraySource(clean)
    alike = timed(lambda: ssim_and_psnr(one, other, Srgb()), 1)
    eye = timed(lambda: flip(one, other, Srgb(), 67.0), 1)
    looks = timed(lambda: (shown(noisy, Srgb()), difference(noisy, clean, Srgb(), 8, signed=True)))
    rate = redraws_a_second([shown(noisy, Srgb()), shown(clean, Srgb())])
    played = play(noisy)
    print("\n| a pair of 3840×2160 px | measured | against plain NumPy and SciPy |")
    print("|---|---|---|")
    print(f"| plain NumPy and SciPy: error, grain, softening by tile | {plain:.2f} s | 1 |")
    print(f"| noise map, error and its parts with intervals | {ours:.2f} s | {ours / plain:.3f} |")
    more, whole = highest.mib - before, highest.mib
    print(f"| memory on top of the pictures while measuring | {more:.0f} MiB, {whole:.0f} in all | |")
    print(f"| SSIM and PSNR | {alike:.1f} s | |")
    print(f"| ꟻLIP | {eye:.1f} s | |")
    print(f"| colour and difference made ready to be painted | {looks:.2f} s | |")
    print(f"| redraws a second while the pair is moved (at 25, 100 and 300 %, the least) | {rate:.0f} | |")
    print(f"| reading a frame of two sequences of half-float EXR ahead | {played.read_seconds:.2f} s | |")
    print(f"| frames of both shown in time at 24 fps, once read | {played.due - played.dropped} of {played.due} | |")


if __name__ == "__main__":
    main()
