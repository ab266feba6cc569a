"""Frames rendered by the stand-in renderer, one after another, in a process of its own. GUI thread, but for `Renderer`.

The queue hands each frame to `Jobs`; the work there waits for the process, tells how far it is, and kills it when it is
asked to stop. A crash of the process is an error like any other.
"""

import hashlib
import json
import queue
import threading
import time
from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from subprocess import Popen, TimeoutExpired
from typing import Any

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage

from pemlo.app.jobs import Jobs
from pemlo.core.errors import PemloError
from pemlo.core.processes import command_of, started
from pemlo.core.progress import Cancelled, Monitor
from pemlo.core.project.settings import FrameSettings
from pemlo.core.units import DAY_S

RENDER = "render"
KEPT = "cache"
UNFINISHED = ".unfinished.npz"
FORGOTTEN_DAYS = 14  # nobody goes on from so old a frame
_LOOK_EVERY_S = 0.05
# Light of larger frames is not split by source: that takes 96 bytes a pixel.
MOST_PIXELS_BY_SOURCE = 4_000_000
_LAST_WORDS = 600
_LAST_WORDS_S = 2.0


@dataclass(frozen=True)
class Rendering:
    """A frame to render: of which shot, how, and where its pictures go.

    Attributes
    ----------
    region : tuple of int or None
        Left, top, right and bottom edge in px of the frame at 100 %.
    picture, small : path
        The whole picture, and a small one to be looked at.
    """

    shot: str
    scene: str
    frame: int
    size: tuple[int, int]
    settings: FrameSettings
    picture: Path
    small: Path
    machine: str
    seed: int = 0
    region: tuple[int, int, int, int] | None = None

    def request(self) -> dict[str, Any]:
        """Return the request as the renderer's process reads it."""
        s = self.settings
        return {
            "settings": {
                "scene": self.scene,
                "frame": self.frame,
                "width": self.size[0],
                "height": self.size[1],
                "resolution_percent": s.resolution_percent,
                "samples": s.samples,
                "min_samples": s.least_samples,
                "noise_threshold": s.noise_threshold,
                "denoise": s.denoise,
                "seed": self.seed,
                "region": self.region,
                "keep": s.keep,
                "seconds": s.most_seconds,
                "split": s.split,
                "switches": s.switches,
                "saves": s.saves,
                "by_source": self.size[0] * self.size[1] <= MOST_PIXELS_BY_SOURCE,
            },
            "picture": str(self.picture.absolute()),
            "small": str(self.small.absolute()),
            "machine": self.machine,
            "kept": str(self.picture.absolute().parent / KEPT) if s.keep else None,
            "unfinished": str(self.unfinished.absolute()),
        }

    @property
    def unfinished(self) -> Path:
        """Where the unfinished frame is written: asked for again in the same way, it goes on from there."""
        s = self.settings
        asked = repr((self.shot, self.scene, self.frame, self.size, self.region, sorted(s.frame_fields().items())))
        return self.picture.with_name(f".{hashlib.sha256(asked.encode()).hexdigest()[:16]}{UNFINISHED}")


class Renderer:
    """The process. It stays between frames, so that only its first one loads and compiles. Any thread."""

    def __init__(self, command: Sequence[str] = tuple(command_of("pemlo.standins.renderer.worker"))) -> None:
        self._command = list(command)
        self._process: Popen[str] | None = None
        self._answers: queue.Queue[str | None] = queue.Queue()
        self._errors: list[str | None] = []
        self._listeners: list[threading.Thread] = []
        self._one_at_a_time = threading.Lock()

    def run(self, request: dict[str, Any], monitor: Monitor, refined: Callable[[str], None]) -> dict[str, Any]:
        """Have a frame rendered, and return its header.

        Raises
        ------
        PemloError
            If it cannot be rendered, or the process dies.
        Cancelled
            From the monitor; the process is killed then.
        """
        # A frame that is asked for while another is being stopped waits for the end of that one's process.
        with self._one_at_a_time:
            process = self._running()
            try:
                assert process.stdin is not None
                process.stdin.write(json.dumps(request) + "\n")
                process.stdin.flush()
                return self._listen(monitor, refined)
            except BrokenPipeError as error:
                raise self._crash() from error
            except Cancelled:
                self._kill()
                raise

    def _listen(self, monitor: Monitor, refined: Callable[[str], None]) -> dict[str, Any]:
        fraction, text = 0.0, "Starting the renderer"
        while True:
            monitor.step(fraction, text)
            try:
                line = self._answers.get(timeout=_LOOK_EVERY_S)
            except queue.Empty:
                continue
            if line is None:
                raise self._crash()
            try:
                answer = json.loads(line)
            except json.JSONDecodeError as error:
                self._errors.append(line)
                raise self._crash() from error
            if "done" in answer:
                header: dict[str, Any] = answer["done"]
                return header
            if "failed" in answer:
                raise PemloError(answer["failed"], answer["hint"], "render")
            if "refined" in answer:
                refined(answer["refined"])
            else:
                fraction, text = answer["fraction"], answer["text"]

    def close(self) -> None:
        """Kill the process, if there is one, once no frame is under way: ask that to stop first."""
        with self._one_at_a_time:
            self._kill()

    def _kill(self) -> None:
        if self._process is not None:
            self._process.kill()
            self._end()

    def _running(self) -> "Popen[str]":
        if self._process is not None and self._process.poll() is not None:
            self._end()
        if self._process is None:
            self._answers, self._errors = queue.Queue(), []
            try:
                self._process = started(self._command)
            except OSError as error:
                raise PemloError(f"The renderer cannot be started: {error.strerror}.", "", "render") from error
            self._listeners = [
                threading.Thread(target=_drain, args=(stream, take), daemon=True)
                for stream, take in (
                    (self._process.stdout, self._answers.put),
                    (self._process.stderr, self._errors.append),
                )
            ]
            for listener in self._listeners:
                listener.start()
        return self._process

    def _crash(self) -> PemloError:
        code = None
        if self._process is not None:
            with suppress(TimeoutExpired):
                code = self._process.wait(_LAST_WORDS_S)
            self._kill()
        words = " ".join("".join(text for text in self._errors if text).split())[-_LAST_WORDS:]
        how = f"code {code}" if code is not None else "it was stopped"
        return PemloError(
            f"The renderer failed in the middle of a frame ({how}).",
            f"Nothing else is lost; the frame can be rendered again. Its last words: {words}" if words else "",
            "render",
        )

    def _end(self) -> None:
        """Wait for the end of the process and of those who listen to it."""
        assert self._process is not None
        self._process.wait()
        for listener in self._listeners:
            listener.join()
        assert self._process.stdin is not None
        with suppress(OSError):
            self._process.stdin.close()
        self._process = None


def _drain(stream: Any, take: Callable[[str | None], None]) -> None:  # noqa: ANN401 - a pipe
    for line in stream:
        take(line)
    take(None)
    stream.close()


class RenderQueue(QObject):
    """Renders frames in the order in which they were asked for.

    Signals
    -------
    landed(Rendering, dict)
        A frame is done: its header.
    refined(Rendering, QImage)
        Its small picture has come nearer.
    changed()
        What waits has changed.
    """

    landed = Signal(object, object)
    refined = Signal(object, object)
    changed = Signal()

    def __init__(self, jobs: Jobs, renderer: Renderer | None = None) -> None:
        super().__init__()
        self._jobs, self._renderer = jobs, renderer or Renderer()
        self._waiting: list[Rendering] = []
        self._current: Rendering | None = None
        jobs.cancelled.connect(self._on_cancelled)
        jobs.failed.connect(self._on_failed)

    @property
    def waiting(self) -> tuple[Rendering, ...]:
        """Frames that are asked for and not done, the one under way first."""
        return (*((self._current,) if self._current else ()), *self._waiting)

    def add(self, renderings: Sequence[Rendering]) -> None:
        """Ask for frames."""
        self._waiting.extend(renderings)
        self._go_on()
        self.changed.emit()

    def forget(self) -> None:
        """Stop the frame under way, and forget those that wait."""
        self._jobs.cancel(RENDER)

    def close(self) -> None:
        """Forget all frames and kill the process."""
        self.forget()
        self._renderer.close()

    def _go_on(self) -> None:
        if self._current is not None or not self._waiting:
            return
        current = self._current = self._waiting.pop(0)
        more = f", {len(self._waiting)} more" if self._waiting else ""
        text = f"Rendering frame {current.frame} of {current.shot}{more}"

        def refined(small: str) -> None:
            self.refined.emit(current, QImage(small))

        def work(monitor: Monitor) -> dict[str, Any]:
            _remove_forgotten(current.picture.parent)
            return self._renderer.run(current.request(), _Named(monitor, text), refined)

        self._jobs.submit(RENDER, text, work, self._on_done)

    def _on_done(self, header: dict[str, Any]) -> None:
        done, self._current = self._current, None
        self.landed.emit(done, header)
        self._go_on()
        self.changed.emit()

    def _on_failed(self, key: str, _error: Exception) -> None:
        if key == RENDER:
            self._current = None
            self._go_on()
            self.changed.emit()

    def _on_cancelled(self, key: str) -> None:
        # Stopped by hand: then what waits is not wanted either.
        if key == RENDER and self._current is not None:
            self._current = None
            self._waiting.clear()
            self.changed.emit()


def _remove_forgotten(folder: Path) -> None:
    """Remove what unfinished frames left long ago."""
    for left in folder.glob(f".*{UNFINISHED}"):
        with suppress(OSError):
            if time.time() - left.stat().st_mtime > FORGOTTEN_DAYS * DAY_S:
                left.unlink()


class _Named:
    """Tells of progress under the name of the frame."""

    def __init__(self, monitor: Monitor, name: str) -> None:
        self._monitor, self._name = monitor, name

    def step(self, fraction: float, text: str) -> None:
        self._monitor.step(fraction, f"{self._name}: {text.lower()}")
