"""One number has one value in the window: the verdict, the bars of Trade, the plan box and the command line agree."""

import re

import pytest

from film import make_project, make_shot
from pemlo.core.film.film import Film
from pemlo.core.forecast.ledger import ledger_of
from pemlo.core.project.machines import Machine
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.trials import GOOD, Trial
from window import open_window, run_action, settle, without_advice

ASKED = ShotSettings(samples=256)


def film(shots, seconds, machines=2, **fields):
    """Shots whose half of the samples was timed and passed."""
    made = tuple(make_shot(f"{10 * k:03d}", 90) for k in range(1, shots + 1))
    trials = tuple(
        Trial(shot=shot.name, frame=45, seconds=seconds * share * (1 + 0.1 * k), mark=GOOD if share < 1 else "",
              **ASKED.replace(samples=round(256 * share)).frame_fields())
        for k, shot in enumerate(made) for share in (1, 0.5)
    )  # fmt: skip
    return make_project(made, trials, (Machine(name="m", count=machines),), **fields)


FILMS = {
    "late": (6, 1500.0, {}), "just": (6, 900.0, {"assembly_minutes": 60, "retake_share": 0.04}), "small": (1, 2.0, {}),
}  # fmt: skip


def parts(text):
    """The three numbers of a sentence, and what is to spare."""
    found = re.search(
        r"Likely (.+?) (?:machine-hours|of machine time), (.+?) to be 90 % sure; (.+?) are available: (.+?)\.(?: |$)",
        text,
    )
    assert found, text
    return found.groups()


@pytest.mark.parametrize("name", FILMS)
def test_every_place_of_the_window_says_the_same(qtbot, monkeypatch, name):
    without_advice(monkeypatch)
    shots, seconds, fields = FILMS[name]
    project = film(shots, seconds, **fields)
    window = open_window(qtbot, project)
    run_action(window, "trade")
    settle(qtbot, window)
    asked = ledger_of(Film(project).forecast, 0.9)
    assert parts(window.verdict.detail.text()) == (asked.likely, asked.safe, asked.available, asked.apart)
    if "machine-hours" in window.verdict.headline.text():
        assert asked.apart.split()[0] in window.verdict.headline.text()
    # As it stands both ends of the fall are the likely hours.
    bars = window.trade.waterfall._bars
    assert [bar.end for bar in bars] == pytest.approx([asked.likely_h] * 2, abs=asked.unit)
    window.trade.plan_box.missing.click()
    qtbot.waitUntil(window.trade.plan_box.take.isVisible, timeout=30_000)
    planned = parts(window.trade.plan_box.found.text())
    window.trade.plan_box.take.click()
    settle(qtbot, window)
    # Adopted, the verdict is the plan's: the same three numbers.
    assert parts(window.verdict.detail.text())[:2] == planned[:2]
    now = ledger_of(Film(window.document.project).forecast, 0.9)
    ends = [bar for bar in window.trade.waterfall._bars if bar.is_end]
    assert ends[-1].end == pytest.approx(now.likely_h, abs=max(now.unit, 0.01))
    level = ends[0].end
    for bar in window.trade.waterfall._bars[1:-1]:
        assert bar.start == pytest.approx(level)
        level = bar.end
    assert level == pytest.approx(ends[-1].end)
