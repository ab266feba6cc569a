"""The case for a producer, and the settings sheet on paper."""

import re
import subprocess
from datetime import UTC, datetime
from html.parser import HTMLParser
from pathlib import Path
from xml.etree import ElementTree as ET

import pytest

from film import make_project, make_shot, well_timed
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.film.film import Film
from pemlo.core.forecast.finish import finish_of
from pemlo.core.forecast.verdict import forecast
from pemlo.core.frames import parse_frames
from pemlo.core.project.edits import set_handles
from pemlo.core.project.machines import Machine
from pemlo.core.project.names import safe_name
from pemlo.demo import DEMO_FILE, demo_project
from pemlo.handover.case_facts import as_asked, case_facts
from pemlo.handover.charts import fall_svg, tape_svg
from pemlo.handover.pages import case_page, sheet_page
from pemlo.handover.paper import pages_of, pdf_of
from pemlo.handover.pieces import pieces_of
from pemlo.handover.settings_sheet import settings_sheet, sheet_columns
from pemlo.words.verdicts import headline

WRITTEN = datetime(2031, 4, 21, 9, 30, tzinfo=UTC)
NASTY = '<script>alert("x")</script>'


def film(**more):
    shots = (make_shot("010"), make_shot("020", 50))
    planned = shots[0].replace(plan=shots[0].asked.replace(samples=64))
    machines = (Machine(name="blade", count=2), Machine(name="tower", speed=0.5))
    return make_project((planned, shots[1]), well_timed(), machines, **more)


class Reader(HTMLParser):
    """Counts tags, and keeps what is read."""

    def __init__(self, page):
        super().__init__()
        self.tags, self.text = [], ""
        self.feed(page)

    def handle_starttag(self, tag, attrs):
        self.tags.append(tag)

    def handle_data(self, data):
        self.text += data


def test_the_verdict_is_that_of_the_forecast(tmp_path):
    project = film()
    facts = case_facts(Film(project, tmp_path), WRITTEN)
    known = fit(fit_input(project))
    found = forecast(project, known, draw_film(known, project))
    assert facts.planned.hours == found.hours
    read = Reader(case_page(facts)).text
    assert headline(project, facts.planned) in read
    assert headline(as_asked(project), facts.asked) in read


def test_what_is_given_up_sums_to_the_difference(tmp_path):
    facts = case_facts(Film(film(), tmp_path), WRITTEN)
    assert [one.lever for one in facts.given_up] == ["samples"]
    assert facts.given_up[0].where == "010: 256 to 64"
    saved = facts.waterfall.asked.middle - facts.waterfall.plan.middle
    assert sum(one.saved_h for one in facts.given_up) == pytest.approx(saved, rel=0.05)
    assert facts.asked.hours.middle - facts.planned.hours.middle == pytest.approx(saved, rel=0.05)
    first, second = facts.shots
    assert first.asked.middle > first.planned.middle
    assert second.asked == second.planned


def test_what_one_more_buys_comes_of_a_run(tmp_path):
    project = film()
    longer = tuple(shot.replace(last=shot.last * 3) for shot in project.shots)
    facts = case_facts(Film(project.replace(shots=longer), tmp_path), WRITTEN)
    assert any(words.startswith("One more of blade: about") for words in facts.more)
    none = film().replace(machines=())
    assert case_facts(Film(none, tmp_path), WRITTEN).more == ()


def test_nothing_known_and_nothing_given_up(tmp_path):
    empty = make_project()
    page = case_page(case_facts(Film(empty, tmp_path), WRITTEN))
    assert "Nothing: every shot is rendered as asked." in page
    assert "Time one frame of shot 010 to begin." in page
    assert case_page(case_facts(Film(make_project(()), tmp_path), WRITTEN))


def test_a_script_is_text(tmp_path):
    project = film().replace(title=NASTY)
    shots = tuple(shot.replace(name=f"{safe_name(NASTY)[:40]}{k}") for k, shot in enumerate(project.shots))
    nasty = project.replace(shots=shots, trials=tuple(t.replace(shot=shots[0].name) for t in project.trials))
    for page in (
        case_page(case_facts(Film(nasty, tmp_path), WRITTEN)),
        sheet_page(nasty, settings_sheet(nasty), WRITTEN, (f"render {NASTY}",)),
    ):
        assert "<script" not in page
        assert "script" not in Reader(page).tags
        assert NASTY in Reader(page).text


def test_charts_are_drawings_in_figures(tmp_path):
    facts = case_facts(Film(film(), tmp_path), WRITTEN)
    for svg in (tape_svg(facts.project, facts.planned), fall_svg(facts.waterfall, facts.planned.hours_usable)):
        drawn = ET.fromstring(svg)
        numbers = [float(n) for n in re.findall(r'(?:x|y|width|height|x1|y1)="(-?[\d.]+)"', svg)]
        assert all(-1 <= n <= 700 for n in numbers)
        assert drawn.find("{http://www.w3.org/2000/svg}title") is not None
    # The bars of the fall are as high as their hours.
    bars = [float(n) for n in re.findall(r'height="([\d.]+)" fill="#1F5C66"', fall_svg(facts.waterfall, 1.0))]
    assert bars[1] / bars[0] == pytest.approx(facts.waterfall.plan.middle / facts.waterfall.asked.middle, abs=0.01)


def read_pdf(data, path):
    path.write_bytes(data)
    return subprocess.run(["pdftotext", str(path), "-"], capture_output=True, text=True, check=True).stdout


def test_paper_says_what_the_page_says_in_our_own_letters(tmp_path):
    facts = case_facts(Film(film(), tmp_path), WRITTEN)
    data = pdf_of(case_page(facts))
    said = read_pdf(data, tmp_path / "case.pdf")
    assert headline(facts.project, facts.planned) in said.replace("\n", " ")
    fonts = subprocess.run(["pdffonts", str(tmp_path / "case.pdf")], capture_output=True, text=True, check=True).stdout
    named = [line.split()[0] for line in fonts.splitlines()[2:]]
    assert named
    assert all(re.fullmatch(r"[A-Z]{6}\+Inter[\w-]*", name) for name in named), named
    # Charts are lines: without pictures of trials the paper holds no pixels.
    listed = subprocess.run(
        ["pdfimages", "-list", str(tmp_path / "case.pdf")], capture_output=True, text=True, check=True
    )
    assert len(listed.stdout.splitlines()) == 2


def test_paper_fetches_nothing(tmp_path):
    secret = tmp_path / "secret.txt"
    secret.write_text("secret words")
    page = f'<p>seen</p><img src="{secret.as_uri()}"><link rel="attachment" href="{secret.as_uri()}">'
    assert b"secret" not in pdf_of(page)


def test_the_case_of_the_demo_shows_its_worst_spots_and_is_small():
    from pemlo.core.persistence.document import read_project

    project = read_project(DEMO_FILE)
    shot = project.shot("060")
    planned = project.replace(shots=tuple(
        one.replace(plan=one.asked.replace(samples=32)) if one.name == shot.name else one for one in project.shots
    ))  # fmt: skip
    facts = case_facts(Film(planned, Path(DEMO_FILE).parent), WRITTEN)
    assert [spot.shot for spot in facts.spots][:1] == ["060"]
    assert facts.spots[0].asked != facts.spots[0].planned
    assert len(facts.spots) == 3
    page = case_page(facts)
    assert len(page) < 200_000
    assert Reader(page).tags.count("img") == 4  # a pair where the plan changes the look, and one picture of the others


def test_handles_are_among_what_the_case_rests_on(tmp_path):
    plain, more = (case_page(case_facts(Film(one, tmp_path), WRITTEN)) for one in (film(), set_handles(film(), 4)))
    words = "16 frames more are rendered as handles"  # two shots, two ends, four each
    assert words in Reader(more).text
    assert "handles" not in Reader(plain).text


def test_pieces_are_the_shot_without_overlap():
    project = set_handles(film(), 4)
    known = fit(fit_input(project))
    pieces = pieces_of(project, finish_of(project, known, draw_film(known, project), trace=True))
    for shot in project.shots:
        mine = [piece for piece in pieces if piece.shot.name == shot.name]
        frames = [frame for one in mine for frame in range(one.first, one.last + 1)]
        assert frames == list(range(shot.first - 4, shot.last + 5))
    assert {piece.machine for piece in pieces} == {"blade", "tower"}
    by_machine = {
        name: sum(piece.last - piece.first + 1 for piece in pieces if piece.machine == name)
        for name in ("blade", "tower")
    }
    assert 2.5 < by_machine["blade"] / by_machine["tower"] < 6  # two machines of twice the speed: four times as many
    sheet = settings_sheet(project, pieces)
    assert all(sum(part.count for part in one.pieces) in (0, one.count) for one in sheet)
    assert all(len(parse_frames(one.frames)) == one.count for one in sheet)


def test_the_sheet_marks_what_changed_by_more_than_colour():
    project = film()
    sheet = settings_sheet(project)
    page = sheet_page(project, sheet, WRITTEN)
    assert page.count("◆ ") == 1  # the one setting that the plan changes
    assert re.search(r"◆ \d+<br><span class=\"second\">asked \d+", page)
    assert "◆ samples" in sheet_page(project, sheet, WRITTEN, cards=True)


def test_the_sheet_is_one_table_of_the_settings_that_are_in_use():
    project = film()
    shown = sheet_columns(settings_sheet(project))
    assert "samples" in shown.columns  # the plan changes them
    assert "time limit" in shown.unused
    page = sheet_page(project, settings_sheet(project), WRITTEN)
    assert page.count("<table") == 1
    assert "none" not in page.split("</thead>")[1]
    demo = demo_project()
    paper = pages_of(pdf_of(sheet_page(demo, settings_sheet(demo), WRITTEN)), 20)
    assert len(paper) == 1
    assert paper[0].shape[1] > paper[0].shape[0], "it lies on its side"


def test_a_picture_that_the_plan_leaves_as_it_was_is_shown_once():
    facts = case_facts(Film(demo_project(), DEMO_FILE.parent), WRITTEN)
    page = case_page(facts)
    shown = sum(2 if spot.asked != spot.planned else 1 for spot in facts.spots)
    assert facts.spots
    assert page.count("<img ") == shown
    assert page.count("as asked, and planned") == sum(spot.asked == spot.planned for spot in facts.spots) > 0
