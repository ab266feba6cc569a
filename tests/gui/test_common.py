"""The pieces that stages share: tape, strip, tables, form, finder, colours, fonts."""

import re
import sys
from itertools import pairwise

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QFontMetricsF, QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QToolTip, QWidget

from film import make_project, make_shot, well_timed
from pemlo.app.actions import Action, matching
from pemlo.app.appearance import Appearance
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.errors import InputError
from pemlo.core.forecast.finish_density import density, last_hour
from pemlo.core.forecast.verdict import forecast
from pemlo.core.project.edits import set_delivery
from pemlo.core.project.machines import Machine
from pemlo.demo import demo_project
from pemlo.gui.brief.presenter import DUE_FIELDS
from pemlo.gui.common.colours import DAY, THEMES, colours, use
from pemlo.gui.common.finder import Finder
from pemlo.gui.common.fonts import font, load_fonts
from pemlo.gui.common.form import Form
from pemlo.gui.common.strip import Strip
from pemlo.gui.common.tape import Tape
from pemlo.gui.common.theme import _STYLES, apply_theme
from pemlo.words.film_verdict import film_verdict


@pytest.fixture(autouse=True)
def day(qapp):
    apply_theme(qapp, Appearance("Day"))


def found_of(project):
    known = fit(fit_input(project))
    return forecast(project, known, draw_film(known, project))


def pixels(widget):
    image = widget.grab().toImage().convertToFormat(QImage.Format.Format_RGB32)
    flat = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine() // 4, 4)
    return flat[:, : image.width(), :3].astype(int)


def differ(first, second):
    """Largest difference of two pictures; the absolute value comes before the maximum."""
    return int(np.abs(first - second).max())


def luminance(colour):
    # WCAG 2.1, relative luminance.
    parts = [value / 255 for value in colour.getRgb()[:3]]
    linear = [p / 12.92 if p <= 0.03928 else ((p + 0.055) / 1.055) ** 2.4 for p in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


@pytest.mark.parametrize("name", THEMES)
def test_text_has_the_contrast_of_wcag_aa(name):
    palette = THEMES[name]
    for ink in (palette.ink, palette.second, palette.time, palette.limit, palette.picture):
        for paper in (palette.sheet, palette.raised):
            high, low = sorted((luminance(ink), luminance(paper)), reverse=True)
            assert (high + 0.05) / (low + 0.05) >= 4.5, (name, ink.name(), paper.name())
    for ink, paper in (
        (palette.second, palette.window),
        (palette.faint, palette.sheet),
        (palette.faint, palette.raised),
    ):
        high, low = sorted((luminance(ink), luminance(paper)), reverse=True)
        assert (high + 0.05) / (low + 0.05) >= 4.5, (name, ink.name(), paper.name())


@pytest.mark.parametrize("name", THEMES)
def test_borders_of_fields_have_the_contrast_of_wcag(name):
    """Success criterion 1.4.11: what shows where a field is stands out by 3 to 1 from what is beside it."""
    palette = THEMES[name]
    rule = re.search(r"QLineEdit, QComboBox[^}]*border: 1px solid @(\w+)", _STYLES)
    border = {"FAINT": palette.faint, "LINE": palette.line}[rule[1]]
    for paper in (palette.sheet, palette.raised):
        high, low = sorted((luminance(border), luminance(paper)), reverse=True)
        assert (high + 0.05) / (low + 0.05) >= 3, (name, paper.name())


def test_the_comparison_of_pictures_sees_brighter_and_darker():
    grey = np.full((4, 4, 3), 100)
    brighter, darker = grey.copy(), grey.copy()
    brighter[1, 2, 0], darker[1, 2, 0] = 130, 70
    assert differ(grey, grey) == 0
    assert differ(grey, brighter) == differ(grey, darker) == 30


def test_figures_have_one_width():
    load_fonts()
    metrics = QFontMetricsF(font())
    assert len({metrics.horizontalAdvance(digit) for digit in "0123456789"}) == 1
    assert font().family() == "Inter"


def test_the_hump_peaks_where_most_outcomes_are():
    finish = np.sort(np.random.default_rng(0).normal(50, 4, 1000))
    curve = density(finish, 100)
    assert curve.at[np.argmax(curve.height)] == pytest.approx(50, abs=2)
    assert curve.height.max() == 1
    assert not density(np.full(10, np.inf), 100).height.any()


def test_the_tape_reaches_past_deadline_and_outcomes_but_not_absurdly_far():
    project = make_project(trials=well_timed())
    found = found_of(project)
    assert last_hour(found, 80.0) >= 88
    late = found_of(make_project(shots=(make_shot("010", 90_000),), trials=well_timed()))
    assert last_hour(late, 80.0) == pytest.approx(240)


def test_the_tape_draws_what_changes(qtbot):
    project = demo_project()
    tape = Tape()
    qtbot.addWidget(tape)
    tape.resize(1200, 96)
    tape.show_verdict(film_verdict(project, found_of(project), None, 1))
    before = pixels(tape)
    assert differ(before, pixels(tape)) == 0
    later = set_delivery(project, deadline="2031-04-27T18:00+01:00")
    tape.show_verdict(film_verdict(later, found_of(later), None, 1))
    assert differ(before, pixels(tape)) > 100
    assert tape.reading().startswith("50 % by Fri")
    tape.mark_stale()
    stale = pixels(tape)
    tape.show_verdict(film_verdict(later, found_of(later), None, 1))
    assert differ(stale, pixels(tape)) > 50


def test_hovering_over_the_tape_reads_it_out(qtbot, monkeypatch):
    project = make_project(shots=(make_shot(),), trials=well_timed())
    tape = Tape()
    qtbot.addWidget(tape)
    tape.resize(1000, 96)
    tape.show_verdict(film_verdict(project, found_of(project), None, 1))
    told = []
    monkeypatch.setattr(QToolTip, "showText", lambda place, words, widget: told.append(words))
    tape._tell(QPointF(500, 50))
    assert "machine-hours done by then" in told[0]
    assert "50 % by" in told[0]
    assert "90 % by" in told[0]


def test_a_project_without_a_forecast_is_drawn_too(qtbot):
    for project in (make_project(), make_project(shots=()), make_project(machines=(Machine(name="a", hours="never"),))):
        tape, strip = Tape(), Strip()
        for widget in (tape, strip):
            qtbot.addWidget(widget)
            widget.resize(600, 96)
        tape.show_verdict(film_verdict(project, found_of(project), None, 1))
        strip.show_project(project, None)
        assert pixels(tape).std() > 0
        assert pixels(strip).shape[1] == 600


@pytest.mark.parametrize("count", [1, 10, 200, 2000])
def test_shots_stand_side_by_side_on_the_strip(qtbot, count):
    project = make_project(shots=tuple(make_shot(f"{n:04d}", 20 + n % 50) for n in range(count)))
    strip = Strip()
    qtbot.addWidget(strip)
    strip.resize(1280, 36)
    strip.show_project(project, None)
    places = strip.places()
    assert len(places) == count
    assert places[0][0] >= 18
    assert places[-1][0] + places[-1][1] <= 1262 + 1e-6
    assert all(a[0] + a[1] <= b[0] + 1e-6 for a, b in pairwise(places))
    assert all(width > 0 for _, width in places)


def test_clicks_and_keys_pick_shots(qtbot):
    project = make_project(shots=tuple(make_shot(f"{n}") for n in range(5)))
    strip = Strip()
    qtbot.addWidget(strip)
    strip.resize(1000, 36)
    strip.show_project(project, None)
    strip.show()
    heard = []
    strip.picked.connect(heard.append)

    def click(number, modifier=Qt.KeyboardModifier.NoModifier):
        left, width = strip.places()[number]
        QTest.mouseClick(strip, Qt.MouseButton.LeftButton, modifier, QPoint(int(left + width / 2), 15))

    click(1)
    click(3, Qt.KeyboardModifier.ShiftModifier)
    click(2, Qt.KeyboardModifier.ControlModifier)
    QTest.keyClick(strip, Qt.Key.Key_Right)
    QTest.keyClick(strip, Qt.Key.Key_Left)
    assert heard == [("1",), ("1", "2", "3"), ("1", "3"), ("4",), ("3",)]


def test_a_field_takes_what_is_typed_or_says_what_is_wrong(qtbot):
    done = []

    def edit(text, change):
        done.append((text, change(make_project())))

    form = Form(DUE_FIELDS, edit)
    qtbot.addWidget(form)
    form.show_project(make_project())
    form.show()
    field = form.inputs["confidence"]
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "120")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert done == []
    assert form._wrong["confidence"].text() == "Must be 0.999 or less."
    assert field.property("wrong")
    field.selectAll()
    QTest.keyClicks(field, "75")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert done[0][0] == "Set how sure"
    assert done[0][1].delivery.confidence == 0.75
    assert form._wrong["confidence"].text() == ""


@pytest.mark.parametrize(
    ("name", "text", "part", "value"),
    [
        ("size", "1998×1080", "width", 1998),
        ("size", "DCI 4K", "width", 4096),
        ("size", "UHD 4K 3840×2160", "height", 2160),
        ("rate", "29.97", "fps", 30000 / 1001),
        ("rate", "25 fps", "fps", 25),
        ("assembly", "45", "assembly_minutes", 45),
        ("retakes", "12,5", "retake_share", 0.125),
        ("timezone", "Asia/Tokyo", "timezone", "Asia/Tokyo"),
    ],
)
def test_fields_read_what_people_write(name, text, part, value):
    field = next(one for one in DUE_FIELDS if one.name == name)
    assert getattr(field.edit(make_project(), text).delivery, part) == pytest.approx(value)
    assert field.text(make_project())


@pytest.mark.parametrize(
    ("name", "text"),
    [("size", "big"), ("rate", "fast"), ("rate", "0"), ("deadline", "some day"), ("start", "2040-01-01"), ("title", ""),
     ("assembly", "-1"), ("retakes", "all"), ("timezone", "Nowhere"), ("size", "0×0"), ("confidence", "nan")],
)  # fmt: skip
def test_fields_refuse_the_rest(name, text):
    field = next(one for one in DUE_FIELDS if one.name == name)
    with pytest.raises(InputError) as caught:
        field.edit(make_project(), text)
    assert caught.value.problems[0].what


def test_the_finder_runs_what_is_found(qtbot):
    ran = []
    actions = (
        Action("save", "Project", "Save", "To its file", lambda: ran.append("save"), "Ctrl+S"),
        Action("dim", "View", "Dim theme", "For dark rooms", lambda: ran.append("dim")),
        Action("never", "View", "Theme of nothing", "Never", lambda: ran.append("never"), enabled=lambda: False),
    )
    assert [action.name for action in matching(actions, "theme")] == ["never", "dim"]
    finder = Finder(None, actions)
    qtbot.addWidget(finder)
    finder.show()
    QTest.keyClicks(finder.line, "the")
    assert finder.list.count() == 1
    QTest.keyClick(finder.line, Qt.Key.Key_Down)
    QTest.keyClick(finder.line, Qt.Key.Key_Return)
    assert ran == ["dim"]


def test_an_unknown_theme_is_day():
    assert use("Noon") is DAY
    assert colours() is DAY


def test_qt_counts_references_rightly(qtbot):
    """A binding that loses references to None ends the program after some thousand repaints (seen with 6.12.0)."""

    class Painted(QWidget):
        def paintEvent(self, event):
            pass

    widget = Painted()
    qtbot.addWidget(widget)
    widget.grab()
    before = sys.getrefcount(None)
    for _ in range(300):
        widget.grab()
        widget.property("nothing")
    assert sys.getrefcount(None) > before - 100


def test_progress_paints_its_own_line_and_nothing_behind_it(qtbot):
    """A tick of the bar once painted the whole window: hundreds of times while a film was run."""
    from PySide6.QtCore import QEvent, QObject
    from PySide6.QtWidgets import QVBoxLayout, QWidget

    from pemlo.app.jobs import Jobs, Progress
    from pemlo.gui.common.background_bar import BackgroundBar

    jobs, window = Jobs(), QWidget()
    bar = BackgroundBar(jobs)
    QVBoxLayout(window).addWidget(bar)
    qtbot.addWidget(window)
    window.show()
    bar._key = "work"
    jobs.progressed.emit(Progress("work", 0.1, "Working", 3.0))
    qtbot.wait(20)
    painted = []

    class Listens(QObject):
        def eventFilter(self, what, event):
            if event.type() == QEvent.Type.Paint:
                painted.append(what)
            return False

    listens = Listens()
    window.installEventFilter(listens)
    bar.installEventFilter(listens)
    for tick in range(2, 6):
        jobs.progressed.emit(Progress("work", tick / 10, "Working", 3.0))
        qtbot.wait(20)
    assert bar in painted
    assert window not in painted
    jobs.shut_down()


@pytest.mark.parametrize("theme", ["Day", "Dim"])
def test_the_line_of_progress_is_filled_in_the_colours_of_its_theme(qapp, qtbot, theme):
    """What says that it paints all of itself has to: the line was black in every view."""
    from pemlo.app.jobs import Jobs
    from pemlo.gui.common.background_bar import BackgroundBar

    apply_theme(qapp, Appearance(theme))
    jobs = Jobs()
    bar = BackgroundBar(jobs)
    qtbot.addWidget(bar)
    bar.resize(600, 28)
    bar.show()
    bar.rest("from 51 trials")
    shown = bar.grab().toImage()
    assert shown.pixelColor(500, 0).name() == colours().line.name()
    assert {shown.pixelColor(x, 20).name() for x in (2, 300, 598)} == {colours().window.name()}
    jobs.shut_down()
    apply_theme(qapp, Appearance("Day"))
