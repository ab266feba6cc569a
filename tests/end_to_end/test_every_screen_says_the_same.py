"""A walk of every screen of eight films: what is equal, what sums, and what nobody should have to read."""

import re

import pytest
from PySide6.QtWidgets import QApplication, QLabel, QPushButton, QTableView, QToolButton

import eight_films
from pemlo.app import watcher as watching
from pemlo.core.chances import chance_percent, chance_words
from pemlo.core.film.film import Film
from pemlo.core.forecast.ledger import ledger_of
from pemlo.gui.stages import BRIEF, STAGES, TRADE
from watching_window import Watched
from window import open_window, settle, without_advice

NIGHTLY = tuple(pytest.param(name, marks=pytest.mark.nightly) for name in ("40 shots", "1000 machines"))
WALKED = ("demo", "still", "one line", "six typed", *NIGHTLY)
LEDGER = re.compile(
    r"Likely (.+?) (?:machine-hours|of machine time), (.+?) to be 90 % sure; (.+?) (?:are|is) available: (.+?)\.(?: |$)"
)
# What no screen says: numbers as programs write them, plurals of one, retired words for what a plan costs.
NEVER = {
    "an exponent": re.compile(r"\d[eE][+-]?\d{1,3}\b"),
    "no number": re.compile(r"\b(?:nan|inf|None)\b"),
    "a plural of one": re.compile(
        r"(?<![\d.,:–\u202f])\b1 (?:shots|frames|machines|trials|hours|minutes|days|nights)\b"
    ),
    "a name of the code": re.compile(r"\b[A-Z][a-z]+[A-Z][a-z]+\w*\b|\b[a-z]+_[a-z_]+\b(?![.:/])"),
    "a cost without a noun": re.compile(r"\bof money\b"),
    "a percentage of all": re.compile(r"(?:chance|odds)\D{0,12}\b100 ?%"),
}


def texts(window):
    """Return every text that is to be read now, and the tool tips behind it."""
    found = []
    for kind in (QLabel, QPushButton, QToolButton):
        for one in window.findChildren(kind):
            if one.isVisible():
                found += [one.text(), re.sub(r"<[^>]+>", " ", one.toolTip())]
    for box in window.findChildren(QLabel):
        if box.isVisible() and box.accessibleDescription():
            found.append(box.accessibleDescription())
    return [one for one in found if one]


def walk(qtbot, window):
    """Show every stage, and yield its name and its texts."""
    for stage in range(len(STAGES)):
        window.show_stage(stage)
        settle(qtbot, window)
        QApplication.processEvents()
        cells = [
            str(table.model().index(row, column).data())
            for table in window.findChildren(QTableView)
            if table.isVisible()
            for row in range(table.model().rowCount())
            for column in range(table.model().columnCount())
        ]
        yield STAGES[stage].title, [*texts(window), *cells]


def nothing_that_nobody_reads(name, said):
    for text in said:
        for what, pattern in NEVER.items():
            assert not pattern.search(text), f"{name}: {what} in “{text}”"


def chances(said):
    """Return every chance of the film that texts say."""
    joined = "\n".join(said)
    return set(re.findall(r"((?:more than |less than )?\d+%) to make it", joined))


def brief_sums(window, ledger):
    """What the machines' rows say comes to what is said above them, and the shots' rows to the film."""
    window.show_stage(BRIEF)
    rows = window.brief.machines.model().rows
    free = sum(row.hours for row in rows)
    said = re.search(r"([\d.\u202f]+) clock hours", window.brief._machines_heading._beside.text())[1]
    assert float(said.replace("\u202f", "")) == pytest.approx(free, rel=0.006)
    shots = [row.found for row in window.brief.shots_model.rows if row.found is not None and row.found.hours]
    times = 1 + window.document.project.delivery.retake_share
    assert sum(shot.hours.middle for shot in shots) * times == pytest.approx(ledger.likely_h, rel=0.12)


@pytest.mark.parametrize("name", WALKED)
def test_every_stage_says_the_same(qtbot, monkeypatch, name):
    without_advice(monkeypatch)
    project = eight_films.FILMS[name]()
    window = open_window(qtbot, project)
    film = Film(project)
    ledger, found = ledger_of(film.forecast, 0.9), film.forecast
    mine = (ledger.likely, ledger.safe, ledger.available, ledger.apart)
    seen = 0
    for stage, said in walk(qtbot, window):
        nothing_that_nobody_reads(f"{name}, {stage}", said)
        for text in said:
            for numbers in LEDGER.findall(text):
                assert numbers == mine, f"{stage}: {text}"
                seen += 1
        assert chances(said) <= {chance_percent(found.probability)}, stage
        verdict = window.verdict.headline.text() + window.verdict.detail.text()
        if "in 100" in verdict:
            assert chance_words(found.probability) in verdict, stage
    assert seen, "no stage says the three numbers"
    brief_sums(window, ledger)
    # Two ways side by side: as planned is as the head says it is.
    window.show_stage(TRADE)
    settle(qtbot, window)
    window.trade.hours.scopes["ways"].click()
    settle(qtbot, window)
    as_planned = window.trade.hours.ways.found.second
    assert (as_planned.probability, as_planned.finish) == (found.probability, found.finish and found.finish[1])
    # The run sheet's machines together cost what each costs, and its curve begins at the headline's chance.
    sheet = window.run_sheet
    way = sheet.side.takes.way
    if way is not None and way.kind != "rent" and film.run.probability == found.probability:
        assert way.curve[0].probability == found.probability


@pytest.mark.parametrize("share", [0.5, 1.0])
def test_a_watched_film_says_the_same_half_way_and_at_its_end(qtbot, monkeypatch, tmp_path, share):
    without_advice(monkeypatch)
    monkeypatch.setattr(watching, "EVERY_MS", 100)
    made = Watched(qtbot, monkeypatch, tmp_path)
    made.go_to(made.played.at_share(share))
    window = made.window
    there, of = made.found.snapshot.done_count, 70
    counts = set()
    for stage, said in walk(qtbot, window):
        nothing_that_nobody_reads(stage, said)
        counts |= set(re.findall(r"(\d+) of (\d+) (?:frames )?in\b", "\n".join(said)))
        assert len(chances(said)) <= 1, stage
    assert counts <= {(str(there), str(of))}
    if share == 1.0:
        assert window.verdict.headline.text() == "All frames are in."
