"""What the trade stage says, and its charts."""

from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from film import make_project, make_shot, well_timed
from looks import look
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.errors import InputError
from pemlo.core.interval import Interval
from pemlo.core.predict.error_model import Prediction
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.spelling import settings_words
from pemlo.core.trade import lever_edits
from pemlo.core.trade.levers import Levers
from pemlo.core.trade.options import numbers_of, options_of
from pemlo.core.trade.planning import plan_film
from pemlo.core.trade.prices import LeverStep
from pemlo.core.trade.waterfall import Waterfall, WaterfallStep
from pemlo.gui.common.axes import nice_step
from pemlo.gui.stages import trade_stands
from pemlo.gui.trade import frontiers, presenter
from pemlo.gui.trade.appearance_side import ErrorBar, parts_of
from pemlo.gui.trade.film_shares import FilmShares
from pemlo.gui.trade.frontier_chart import FrontierChart
from pemlo.gui.trade.lever_box import LeverBox
from pemlo.gui.trade.plan_box import PlanBox
from pemlo.gui.trade.waterfall_chart import WaterfallChart
from pemlo.words.plans import ChangesAlike

FALL = Waterfall(
    Interval(90.0, 100.0, 120.0),
    Interval(55.0, 60.0, 70.0),
    (WaterfallStep("samples", 45.0, {"010": 30.0, "020": 15.0}), WaterfallStep("denoise", -5.0, {"010": -5.0})),
)


@pytest.fixture(scope="module")
def film():
    project = make_project(trials=(*well_timed("010"), *well_timed("020", frames=(1, 25, 50))))
    known = fit(fit_input(project))
    draws = draw_film(known, project)
    return project, known, draws, options_of(project, known, draws, project.shot("010"), look(0.1))


# Words


def test_levers_say_where_they_stand():
    shot = make_shot(noise_threshold=0.02, min_samples=8).replace(plan=make_shot(samples=128).asked, pins=("denoise",))
    rows = {row.lever: row for row in presenter.lever_rows(shot, Levers(("none", "frame"), thresholds=True), ())}
    assert rows["samples"].texts[rows["samples"].at] == "128"
    assert rows["samples"].asked_text == "256"
    assert rows["noise_threshold"].texts[rows["noise_threshold"].at] == "none"
    assert rows["noise_threshold"].asked_text == "0.02"
    assert rows["denoise"].pinned
    # One value is nothing to choose.
    assert "keep" not in rows
    assert "frame_step" not in rows


@pytest.mark.parametrize(
    ("lever", "value", "samples"),
    [("samples", 128, (128, 64, 32)), ("resolution_percent", 50.0, (256, 128, 64))],
)
def test_shots_go_in_step(lever, value, samples):
    shots = tuple(make_shot(name, 50, samples=n) for name, n in (("010", 256), ("020", 128), ("030", 64)))
    project = lever_edits.set_lever(make_project(shots), ("010", "020", "030"), lever, value)
    assert tuple(shot.settings.samples for shot in project.shots) == samples
    if lever == "resolution_percent":
        assert {shot.settings.resolution_percent for shot in project.shots} == {50.0}
    assert lever_edits.as_asked(project, ("010", "020", "030")) == make_project(shots)


def test_thresholds_go_in_step_and_shots_without_one_stay():
    shots = (make_shot("010", noise_threshold=0.02), make_shot("020", noise_threshold=0.01), make_shot("030"))
    project = lever_edits.set_lever(make_project(shots), ("010", "020", "030"), "noise_threshold", 0.04)
    assert [shot.settings.noise_threshold for shot in project.shots] == [0.04, 0.02, None]


def test_what_cannot_be_had_says_why_and_others_stay():
    shots = (make_shot("010"), make_shot("020").replace(moves=("lights",)))
    project = lever_edits.set_lever(make_project(shots), ("010", "020"), "keep", ("prepare", "light"))
    assert [shot.settings.keep for shot in project.shots] == [("prepare", "light"), ()]
    with pytest.raises(InputError, match="what moves"):
        lever_edits.set_lever(make_project(shots), ("020",), "keep", ("prepare", "light"))


def test_pins_come_and_go():
    project = lever_edits.set_pin(make_project(), ("010", "020"), "denoise", on=True)
    assert {shot.pins for shot in project.shots} == {("denoise",)}
    assert lever_edits.set_pin(project, ("010", "020"), "denoise", on=False) == make_project()


def test_the_bars_of_a_fall_hang_together():
    bars = presenter.bars(FALL)
    assert [bar.name for bar in bars] == ["as asked", "sampling", "denoise", "plan"]
    assert (bars[1].start, bars[1].end) == (100.0, 55.0)
    assert (bars[2].start, bars[2].end) == (55.0, 60.0)
    assert "010 −30" in bars[1].tip
    assert presenter.waterfall_words(FALL, 80.0).endswith("the line: 80 available; saves 40%")


def test_settings_in_words():
    one = ShotSettings(
        samples=64, min_samples=8, noise_threshold=0.02, frame_step=2, between="blend", keep=("prepare",)
    )
    assert settings_words(one) == "threshold 0.02, 8 to 64 samples, every second frame, mixed, scene preparation cached"


def test_the_hours_that_others_leave():
    draws = [np.full(9, 10.0), np.arange(9.0), np.full(9, 5.0)]
    assert frontiers.hours_left(draws, 0, 20.0, 0.5) == pytest.approx(20 - 5 - 4)
    assert frontiers.hours_left(draws[:1], 0, 20.0, 0.5) == 20.0


def test_a_plan_in_words(film):
    project, known, draws, options = film
    other = options_of(project, known, draws, project.shot("020"), None)
    found = plan_film(project, (options, other), "picture")
    assert "to make it. The worst shot is at" in presenter.plan_words(found, project)
    changes = presenter.plan_changes(found, project)
    assert changes.rest[-1].startswith("Nothing holds it")
    slow = project.replace(machines=(project.machines[0].replace(speed=0.001),))
    slow = slow.replace(
        machines=(slow.machines[0].replace(price_per_hour=0.002),), delivery=slow.delivery.replace(currency="EUR")
    )
    words = presenter.plan_words(plan_film(slow, (options, other), "missing"), slow)
    assert "are available: 3.18 short." in words
    assert "It costs about 6.44 EUR." in words


def test_errors_that_are_not_known_say_what_to_do(film):
    project, known, draws, options = film
    now = numbers_of(project, known, draws, project.shot("010"), None)
    assert "Error not measured" in presenter.error_words(now, options)
    now = numbers_of(project, known, draws, project.shot("010"), look(0.1))
    marked = replace(options, ceiling=2.0, ceiling_from="marks")
    assert presenter.error_words(now, marked).endswith("levels, error limit 2.0 (marks)")  # nothing moves
    moving = replace(marked, flicker_limit=0.1)
    assert presenter.error_words(now, moving).endswith("limit 0.10 (measured): too much")
    share = presenter.share(options, now)
    assert share.ratio == pytest.approx(share.asked_ratio) == pytest.approx(1.0)


def test_where_the_stage_stands():
    project = make_project()
    assert trade_stands(project) == "as asked"
    changed = lever_edits.take(project, "010", project.shot("010").asked.replace(samples=8))
    assert trade_stands(changed) == "1 of 2 changed"
    assert presenter.picked_words(project, ("010",)) == "shot 010"
    assert presenter.picked_words(project, ("010", "020")) == "all shots"


# Charts


def test_round_steps():
    for top in (0.03, 1, 7, 64, 900):
        assert 2 <= top / nice_step(top, 4) <= 6


def test_the_fall_stands_to_scale(qtbot):
    chart = WaterfallChart()
    qtbot.addWidget(chart)
    chart.resize(500, 200)
    chart.show_bars(presenter.bars(FALL), 80.0)
    asked, sampling, _, plan = (chart.bar_rect(number) for number in range(4))
    assert plan.height() / asked.height() == pytest.approx(0.6, rel=0.01)
    assert sampling.height() / asked.height() == pytest.approx(0.45, rel=0.01)
    assert asked.bottom() == pytest.approx(plan.bottom())
    assert chart.top >= 120.0
    assert "80" in chart.accessibleDescription()
    assert "010 −30" in chart.tip_at(sampling.center().x())
    assert chart.tip_at(2.0) == ""
    chart.grab()


def test_the_frontier_finds_what_is_under_the_hand(qtbot, film):
    project, known, draws, options = film
    now = numbers_of(project, known, draws, project.shot("010"), look(0.1))
    shown = frontiers.frontier_of(options, now, 2.0, ())
    assert shown.asked.hours == pytest.approx(shown.plan.hours)
    errors = [one.error for one in shown.line]
    assert errors == sorted(errors), "from the dearest and cleanest on"
    chart = FrontierChart()
    qtbot.addWidget(chart)
    chart.resize(500, 240)
    chart.show_frontier(shown, presenter.option_words(options))
    chart.grab()
    taken = []
    chart.taken.connect(taken.append)
    middle = shown.line[len(shown.line) // 3]
    QTest.mouseClick(chart, Qt.MouseButton.LeftButton, pos=chart.point(middle.hours, middle.error).toPoint())
    assert taken
    assert options.error[taken[-1]] == pytest.approx(middle.error, rel=0.1)
    QTest.mouseMove(chart, chart.point(middle.hours, middle.error).toPoint())
    chart.show_frontier(None, {})
    chart.grab()
    QTest.mouseClick(chart, Qt.MouseButton.LeftButton, pos=QPoint(100, 100))


def test_parts_of_an_error_add_up_in_squares(qtbot):
    one = Interval(2.5, 3.0, 3.5)
    found = Prediction(Interval(12.0, 13.0, 14.0), one, Interval(3.0, 4.0, 5.0), 0.0)
    parts = dict(parts_of(found))
    assert parts["stepping"] == pytest.approx(12.0)
    assert sum(value**2 for value in parts.values()) == pytest.approx(169.0)
    assert dict(parts_of(Prediction(Interval(4.0, 5.0, 6.0), None, None, 3.0)))["grain and softening"] == pytest.approx(
        4.0
    )
    bar = ErrorBar()
    qtbot.addWidget(bar)
    bar.resize(260, 40)
    bar.show_error(found, 10.0)
    assert bar.accessibleName() == "Error 13.0 levels: grain 3.0, softening 4.0, stepping 12.0"
    bar.grab()
    bar.show_error(None, np.nan)
    assert not bar.isVisibleTo(None)


def test_the_strip_of_shares_tells_shots_apart(qtbot):
    strip = FilmShares()
    qtbot.addWidget(strip)
    strip.resize(600, 112)
    strip.show_shares([presenter.Share("010", 9, 4, 1, 1.2), presenter.Share("020", 3, 3, np.nan, np.nan)], ("010",))
    strip.grab()
    picked = []
    strip.picked.connect(picked.append)
    for number in range(2):
        QTest.mouseClick(strip, Qt.MouseButton.LeftButton, pos=strip.column(number).center().toPoint())
    assert picked == ["010", "020"]
    assert "not known" in strip.tip_at(strip.column(1).center().x())
    assert "1.00 to 1.20 times its limit" in strip.tip_at(strip.column(0).center().x())


def test_a_lever_that_is_shown_does_not_move_itself(qtbot):
    box = LeverBox("samples")
    qtbot.addWidget(box)
    moved = []
    box.moved.connect(lambda lever, value: moved.append((lever, value)))
    row = presenter.LeverRow(
        "samples", "samples", (8, 16, 32), ("8", "16", "32"), 1, 2, "−1 h, +0.2 levels", "", pinned=False
    )
    box.show_row(row)
    assert moved == []
    assert "samples 16, asked 32" in box.slider.accessibleDescription()
    box.slider.setValue(0)
    assert moved == [("samples", 8)]
    QTest.mouseClick(box.back, Qt.MouseButton.LeftButton)
    assert moved[-1] == ("samples", 32)
    box.grab()


def test_a_plan_that_no_longer_holds_cannot_be_taken(qtbot):
    box = PlanBox()
    qtbot.addWidget(box)
    box.show()
    wanted = []
    box.wanted.connect(wanted.append)
    for one in (box.search, box.cheapest, box.missing):
        QTest.mouseClick(one, Qt.MouseButton.LeftButton)
    assert wanted == ["picture", "hours", "missing"]
    alike = ChangesAlike("010, 020", 2, "samples 256 to 128", "−3 h", "5.1 levels at most")
    changes = presenter.PlanChanges((alike,), (), ("The error limits hold it.",))
    box.show_plan("It fits.", changes, current=True)
    assert box.take.isVisible()
    assert box.changes.text().splitlines()[0] == "010, 020: samples 256 to 128; −3 h, 5.1 levels at most"
    assert box.changes.heading._title.text() == "2 shots changed"
    box.show_plan("It fits.", changes, current=False)
    assert not box.take.isVisible()
    assert box.found.text().startswith("Out of date")
    box.alike["denoise"].setChecked(True)
    assert box.wanted_alike == ("denoise",)


@pytest.mark.parametrize(
    ("lever", "before", "after", "words"),
    [
        ("switches", {"switches": ("motion blur",)}, {}, "turn motion blur off"),
        ("switches", {}, {"switches": ("fog",)}, "turn fog on"),
        ("samples", {"samples": 192}, {"samples": 152}, "152 samples in place of 192"),
        ("noise_threshold", {"noise_threshold": 0.02}, {"noise_threshold": 0.04}, "threshold 0.04 in place of 0.02"),
        ("noise_threshold", {"noise_threshold": 0.02}, {}, "no noise threshold"),
        ("denoise", {}, {"denoise": "frame"}, "denoise frame"),
        ("denoise", {"denoise": "frame"}, {}, "no denoising"),
        ("resolution_percent", {}, {"resolution_percent": 95}, "95 % size in place of 100 %"),
        ("most_seconds", {}, {"most_seconds": 242}, "at most 4 m 02 s a frame"),
        ("frame_step", {}, {"frame_step": 2}, "render every second frame, held"),
        ("keep", {}, {"keep": ("prepare",)}, "cache scene preparation"),
        ("saves", {}, {"saves": 2}, "save twice while rendering"),
        ("split", {}, {"split": (4, 1, 1)}, "split 4,1,1 in place of 1,1,1"),
    ],
)
def test_a_step_is_named_by_what_to_do(lever, before, after, words):
    one, other = (ShotSettings(**{"samples": 64, **fields}) for fields in (before, after))
    step = LeverStep("010", lever, "down", one, other, -1.7, 0.04, usable=True)
    assert presenter.action_words(step) == words
