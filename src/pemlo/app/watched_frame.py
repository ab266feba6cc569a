"""A frame while it is rendered: its progress under its name, and its picture as the file grows. The job's thread."""

import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtGui import QImage

from pemlo.core.errors import PemloError
from pemlo.core.files.trial_pictures import SMALL
from pemlo.core.progress import Monitor

if TYPE_CHECKING:
    from pemlo.core.trialrun.run import TrialRun

_REFINED_EVERY_S = 0.5
_REFINED_PX = 160
_NEARLY = 0.95


@dataclass
class WatchedFrame:
    """Tells of progress under the name of a frame, and of its picture where the file grows. The job's thread."""

    name: str
    expected_s: float
    refined: Callable[[QImage], None]
    _monitor: Monitor | None = None
    _run: "TrialRun | None" = None
    _began: float = field(default_factory=time.monotonic)
    _looked: float = 0.0
    _seen: int = 0

    def by(self, monitor: Monitor) -> "WatchedFrame":
        """Tell another monitor."""
        self._monitor, self._began = monitor, time.monotonic()
        return self

    def begun(self, run: "TrialRun") -> None:
        """Take note of where the picture will be."""
        self._run = run

    def step(self, _fraction: float, text: str) -> None:
        assert self._monitor is not None
        now = time.monotonic()
        known = 0 < self.expected_s < float("inf")
        share = min(_NEARLY, (now - self._began) / self.expected_s) if known else 0.0
        self._monitor.step(share, self.name if known else f"{self.name}, {text} so far")
        if self._run is not None and now - self._looked > _REFINED_EVERY_S:
            self._looked = now
            self._look(self._run.landing)

    def _look(self, picture: Path) -> None:
        from pemlo.core.files.small import read_for_display  # noqa: PLC0415 - heavy to load

        with suppress(OSError, PemloError):
            written = picture.stat().st_mtime_ns
            if written == self._seen:
                return
            self._seen = written
            codes = read_for_display(picture, _REFINED_PX)[..., :3].copy()
            height, width = codes.shape[:2]
            self.refined(QImage(codes.data, width, height, 3 * width, QImage.Format.Format_RGB888).copy())


def write_small_beside(picture: Path) -> None:
    """Write the small copy of a picture beside it: both are ours."""
    from pemlo.core.files.small import write_small_of  # noqa: PLC0415 - heavy to load

    with suppress(PemloError):
        write_small_of(picture, picture.with_name(picture.name.removesuffix(picture.suffix) + SMALL))
