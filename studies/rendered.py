"""Renders for the studies, each made once: what was rendered is kept in a table beside, and found again there.

The machine's pace drifts: the same frame takes 8 % more or less from one time to the next, and other programs on the
host slow it for minutes. So a fixed piece of the same kind of work is timed before and after each frame, and the
frame's seconds are brought to the middle of all paces. Both are in the table.
"""

import json
import os
import statistics
import tempfile
from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

from pemlo_simulators.renderer.clock import STAGES
from pemlo_simulators.renderer.output import write_picture
from pemlo_simulators.renderer.render import render
from pemlo_simulators.renderer.scenes import SCENES, find_scene
from pemlo_simulators.renderer.settings import RenderSettings

TABLE = Path(os.environ.get("PEMLO_STUDY_FOLDER", tempfile.gettempdir())) / "pemlo_study_renders.jsonl"
PROBE = RenderSettings("clock", 40, 96, 54, samples=12, threads=1)
PROBES = 2  # on each side
Record = dict[str, Any]


class Renders:
    """Renders on one thread, so that a second core is free for the rest of the machine.

    Parameters
    ----------
    steady : bool
        Whether seconds are brought to the middle pace of the machine.
    """

    def __init__(self, table: Path = TABLE, *, steady: bool = True) -> None:
        self._table, self._steady, self._warm = table, steady, False
        self._known: dict[str, Record] = {}
        if table.exists():
            for line in table.read_text().splitlines():
                record = json.loads(line)
                self._known[record["key"]] = record

    @property
    def usual_pace(self) -> float:
        """The middle of all paces, s."""
        return statistics.median(one["pace_seconds"] for one in self._known.values())

    def get(self, settings: RenderSettings) -> Record:
        """Return a frame's header, rendered now or before."""
        settings = replace(settings, threads=1)
        key = json.dumps(asdict(settings))
        if key not in self._known:
            self._known[key] = self._render(settings, key)
            with self._table.open("a") as file:
                file.write(json.dumps(self._known[key]) + "\n")
        record = dict(self._known[key])
        if self._steady:
            usual = self.usual_pace
            for name in ("seconds", *(f"{stage}_seconds" for stage in STAGES)):
                record[name] *= usual / record["pace_seconds"]
        return record

    def _render(self, settings: RenderSettings, key: str) -> Record:
        if not self._warm:
            # The first frame of a process also loads and compiles: it is rendered for nothing.
            for denoise in ("frame", "neighbours 2 1"):
                render(SCENES[0], RenderSettings(SCENES[0].name, 2, 16, 9, samples=1, denoise=denoise, threads=1))
            self._warm = True
        scene = find_scene(settings.scene)
        with tempfile.TemporaryDirectory() as folder:
            kept = Path(folder) / "kept" if settings.keep else None
            if kept:
                # Another frame of the shot fills the store, as it does on a machine that renders the whole shot.
                first = 1 if settings.frame != 1 else 2
                kept.mkdir()
                fill = replace(settings, frame=first, samples=1, noise_threshold=None, denoise="none")
                render(scene, fill, kept_in=kept)
            before = pace_seconds()
            done = render(scene, settings, kept_in=kept)
            pace = (before + pace_seconds()) / 2
            header = write_picture(done, Path(folder) / "a.exr", "study")
        return {"key": key, **header, "pace_seconds": pace}


def pace_seconds() -> float:
    """Return the processor seconds of tracing a fixed frame now."""
    return statistics.mean(render(find_scene(PROBE.scene), PROBE).clock.processor["trace"] for _ in range(PROBES))
