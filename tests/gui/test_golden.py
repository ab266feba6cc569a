"""Painted widgets against kept pictures, at one size, font and theme.

``PEMLO_UPDATE_GOLDEN=1 pytest tests/gui/test_golden.py`` paints them anew; look at them before they are kept.
"""

import os
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtGui import QImage

from pemlo.app.appearance import Appearance
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.forecast.run_effect import RunEffect
from pemlo.core.forecast.verdict import forecast, verdict_of
from pemlo.core.interval import Interval
from pemlo.demo import demo_project
from pemlo.gui.common.strip import Strip
from pemlo.gui.common.tape import Tape
from pemlo.gui.common.theme import apply_theme
from pemlo.words.film_verdict import film_verdict

FOLDER = Path(__file__).parents[1] / "data/golden"
SEEN = 24  # a difference of a channel that an eye would see
MOST_SEEN = 0.004  # share of the pixels that may differ so: another machine's rounding moves an edge


def as_array(image):
    image = image.convertToFormat(QImage.Format.Format_RGB32)
    flat = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine() // 4, 4)
    return flat[:, : image.width(), :3].astype(int)


def share_seen(first, second):
    """Share of pixels that differ visibly; the absolute value comes before the maximum."""
    return float((np.abs(first - second).max(axis=2) > SEEN).mean())


def test_the_comparison_sees_a_brighter_and_a_darker_patch():
    grey = np.full((50, 50, 3), 120)
    for change in (60, -60):
        other = grey.copy()
        other[10:20, 10:20, 1] += change
        assert share_seen(grey, other) == pytest.approx(0.04)
    assert share_seen(grey, grey + 10) == 0


@pytest.fixture(scope="module")
def demo():
    """The demo film with hours that are given: what is painted must not hang on how draws fall on a machine."""
    project = demo_project()
    unknown = forecast(project, fit(fit_input(project.replace(trials=()))), {})
    random = np.random.default_rng(5)
    needed = np.sort(130 * np.exp(0.1 * random.standard_normal(1000)))
    shots = tuple(
        replace(shot, seconds=Interval(200.0, 240.0, 300.0), hours=Interval(8.0 + row, 10.0 + 2 * row, 13.0 + 3 * row))
        for row, shot in enumerate(unknown.shots)
    )
    return project, verdict_of(project, unknown.capacity, shots, needed, RunEffect(np.zeros(0), np.zeros(0)))


@pytest.mark.parametrize("theme", ["Day", "Dim"])
@pytest.mark.parametrize("kind", [Tape, Strip])
def test_looks_as_it_did(qtbot, qapp, demo, kind, theme):
    apply_theme(qapp, Appearance(theme))
    project, found = demo
    widget = kind()
    qtbot.addWidget(widget)
    widget.resize(1000, 96 if kind is Tape else 36)
    if isinstance(widget, Tape):
        widget.show_verdict(film_verdict(project, found, None, 1))
    else:
        widget.show_project(project, found)
        widget.pick(("070",))
    picture = widget.grab().toImage()
    kept = FOLDER / f"{kind.__name__.lower()}-{theme.lower()}.png"
    if os.environ.get("PEMLO_UPDATE_GOLDEN"):
        picture.save(str(kept))
    expected = as_array(QImage(str(kept)))
    shown = as_array(picture)
    assert shown.shape == expected.shape
    assert share_seen(shown, expected) <= MOST_SEEN
    apply_theme(qapp, Appearance("Day"))
