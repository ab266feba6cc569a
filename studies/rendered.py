"""Renders for the studies, each made once: what was rendered is kept in a table beside, and found again there."""

import json
import os
import tempfile
from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

import numpy as np

from pemlo.core.cost.noise_shape import noise_shape
from pemlo.standins.renderer.output import write_picture
from pemlo.standins.renderer.render import render
from pemlo.standins.renderer.scenes import SCENES, find_scene
from pemlo.standins.renderer.settings import RenderSettings

TABLE = Path(os.environ.get("PEMLO_STUDY_FOLDER", tempfile.gettempdir())) / "pemlo_study_renders.jsonl"
TILES = (1, 4, 8)
Record = dict[str, Any]


class Renders:
    """Renders on one thread, so that a second core is free for the rest of the machine."""

    def __init__(self, table: Path = TABLE) -> None:
        self._table, self._warm = table, False
        self._known: dict[str, Record] = {}
        if table.exists():
            for line in table.read_text().splitlines():
                record = json.loads(line)
                self._known[record["key"]] = record

    def get(self, settings: RenderSettings, times: int = 1) -> Record:
        """Return a frame's header and the shape of its noise, rendered now or before.

        The machine is noisy: of several times, the middle one of each stage counts.
        """
        records = [self._once(settings, number) for number in range(times)]
        middle = dict(records[0])
        for name in [name for name in middle if name.endswith("seconds")]:
            middle[name] = float(np.median([record[name] for record in records]))
        return middle

    def has(self, settings: RenderSettings, times: int = 1) -> bool:
        return all(self._key(settings, number) in self._known for number in range(times))

    def _key(self, settings: RenderSettings, number: int) -> str:
        return json.dumps(asdict(replace(settings, threads=1))) + (f" #{number}" if number else "")

    def _once(self, settings: RenderSettings, number: int) -> Record:
        key = self._key(settings, number)
        if key not in self._known:
            self._known[key] = self._render(replace(settings, threads=1), key)
            with self._table.open("a") as file:
                file.write(json.dumps(self._known[key]) + "\n")
        return self._known[key]

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
                render(
                    scene, replace(settings, frame=first, samples=1, noise_threshold=None, denoise="none"), kept_in=kept
                )
            done = render(scene, settings, kept_in=kept)
            header = write_picture(done, Path(folder) / "a.exr", "study")
        picture = done.picture
        shapes = {
            str(t): noise_shape(done.noisy.astype(float), picture.variance.astype(float), picture.samples, t)
            for t in TILES
        }
        return {"key": key, **header, "shapes": shapes}
