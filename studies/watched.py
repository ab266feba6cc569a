"""Plays the small farm without waiting, and looks at what it wrote: for tests and studies."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from pemlo.core.arrivals.arrival_snapshot import arrival_snapshot
from pemlo.core.arrivals.farm_clock import PLACE
from pemlo.core.arrivals.farm_faults import faults_of
from pemlo.core.arrivals.folder_scanner import FolderScanner
from pemlo.core.arrivals.live_forecast import Known, LiveForecast, know, live_forecast
from pemlo.core.arrivals.place import place_of
from pemlo.core.project.project import Project
from pemlo_simulators.farm.logs import Style
from pemlo_simulators.farm.pictures import ShotPictures, small_size
from pemlo_simulators.farm.play import FarmRun
from pemlo_simulators.farm.schedule import deliveries
from pemlo_simulators.farm.truth import Truth, truth_of


def plain_pictures(project: Project) -> dict[str, ShotPictures]:
    """Return pictures of gradients with noise: what is tested is not how they are rendered."""
    found = {}
    for shot in project.shots:
        width, height = small_size(project, shot)
        ramp = np.linspace(0.2, 0.6, width, dtype=np.float32)[None, :, None] * np.ones((height, 1, 3), np.float32)
        found[shot.name] = ShotPictures(np.stack([ramp] * 3), np.full((3, height, width, 3), 0.02, np.float32))
    return found


@dataclass
class Played:
    """A run of the small farm, played as far as is wanted, and what is seen of it."""

    project: Project
    folder: Path
    faults: str = ""
    seed: int = 0
    log: Style | None = None
    headers: bool = True
    truth: Truth | None = None
    pictures: Mapping[str, ShotPictures] | None = None
    run: FarmRun = field(init=False)
    known: Known | None = field(default=None, init=False)
    best: float | None = field(default=None, init=False)
    _next: int = field(default=0, init=False)

    def __post_init__(self) -> None:
        place = self.project.watching.place or f"r/{PLACE}"
        self.project = self.project.replace(watching=self.project.watching.replace(place=place))
        wrong = faults_of(self.faults, self.project, self.seed)
        truth = self.truth or truth_of(self.project, self.seed)
        coming = deliveries(self.project, truth, wrong, self.seed)
        self.run = FarmRun(
            self.project, self.folder, place_of(place), self.pictures or plain_pictures(self.project), coming, wrong,
            log=self.log, headers=self.headers,
        )  # fmt: skip
        self.scanner = FolderScanner(self.folder)

    @property
    def coming(self) -> Sequence[object]:
        return self.run.coming

    def at_share(self, share: float) -> float:
        """Return when such a share of the frames has come, seconds since the start."""
        return self.run.coming[max(0, round(share * len(self.run.coming)) - 1)].at + 1.0

    def play(self, until: float) -> None:
        """Write what comes until then."""
        while self._next < len(self.run.coming) and self.run.coming[self._next].at <= until:
            self.run.write(self.run.coming[self._next])
            self._next += 1

    def seen(self, at: float) -> LiveForecast:
        """Play until then, look, and return what is said."""
        self.play(at)
        look = self.scanner.look(self.project, self.project.start.timestamp() + at, budget_s=np.inf)
        snapshot = arrival_snapshot(self.project, look, at)
        self.known = self.known or know(self.project, snapshot)
        found = live_forecast(snapshot, self.known, self.best)
        if found.probability is not None:
            self.best = max(self.best or 0.0, found.probability)
        return found
