"""One number has one value: likely, safe and available, walked through every command of eight films."""

import json
import re
from datetime import datetime, timedelta

import pytest

from eight_films import FILMS
from film import make_project, make_shot, well_timed
from pemlo.cli.main import main
from pemlo.core.film.film import Film
from pemlo.core.forecast.ledger import Ledger, ledger_of
from pemlo.core.persistence.document import write_project
from pemlo.core.project.delivery import Delivery
from pemlo.core.project.settings import LEVERS
from pemlo.core.trade.waterfall import film_waterfall, shot_waterfall
from pemlo.core.units import HOUR_S
from pemlo.demo import DEMO_FILE


@pytest.fixture(params=FILMS, scope="module")
def walked(request, tmp_path_factory):
    folder = tmp_path_factory.mktemp("film")
    project = FILMS[request.param]()
    path = DEMO_FILE if request.param == "demo" else folder / "film.pemlo"
    if request.param != "demo":
        write_project(project, path)
    return path, project, Film(project, path.parent)


def said(capsys, *arguments):
    assert main(list(map(str, arguments))) in (0, 3)
    return capsys.readouterr().out


def test_spare_is_available_less_safe_and_is_there_just_when_the_chance_is(walked):
    _, project, film = walked
    ledger, found = ledger_of(film.forecast, project.delivery.confidence), film.forecast
    assert ledger.low_h <= ledger.likely_h <= ledger.high_h
    assert ledger.likely_h <= ledger.safe_h <= ledger.high_h
    assert ledger.spare_h == pytest.approx(ledger.available_h - ledger.safe_h)
    assert (ledger.spare_h >= 0) == (found.probability >= project.delivery.confidence)


def test_little_that_is_needed_of_much_is_written_as_finely_as_it_is_known():
    """1.44 hours of 176 are no “1 (1–2)”; what is left of 176 is said to the hour."""
    little = Ledger(1.44, 1.24, 1.67, 1.59, 176.0, 0.9)
    assert little.words == (
        "Likely 1.44 (1.24–1.67) machine-hours, 1.59 to be 90 % sure; 176 are available: 174 to spare."
    )


def test_what_is_written_of_the_three_sums(walked):
    """85 are there, 80 to be sure: 5 to spare, and not 4.6 rounded by itself."""
    _, project, film = walked
    ledger = ledger_of(film.forecast, project.delivery.confidence)
    if ledger.is_small:
        return  # as people say durations
    written = re.match(r"(?:under )?([\d.\u202f]+)", ledger.apart)
    if written is None:
        assert ledger.apart in ("just enough", "just short")
        return
    numbers = [
        float(re.search(r"[\d.\u202f]+", one)[0].replace("\u202f", "")) for one in (ledger.available, ledger.safe)
    ]
    if not ledger.safe.startswith("under"):
        assert abs(numbers[0] - numbers[1]) == pytest.approx(
            float(written[1].replace("\u202f", "")),
            abs=ledger.rest_unit / 2 + 1e-6 if ledger.rest_unit > ledger.unit else 1e-6,
        )


def test_every_command_says_the_same(walked, capsys):
    path, project, film = walked
    ledger = ledger_of(film.forecast, project.delivery.confidence)
    text = said(capsys, "estimate", path)
    assert ledger.words in text
    data = json.loads(said(capsys, "estimate", path, "--json"))
    assert data["machine_hours"]["p50"] == pytest.approx(ledger.likely_h, rel=1e-5)
    finish = json.loads(said(capsys, "finish", path, "--json"))
    assert finish["odds"] == pytest.approx(film.run.probability)
    # The film as it stands is done when it is done, whatever it is compared with, and among the plans that are kept.
    both = json.loads(said(capsys, "compare", path, "asked", "plan", "--json"))
    assert both["second"]["odds"] == film.forecast.probability
    finishes = [
        found and datetime.fromisoformat(found)
        for found in (both["second"]["finish"], (data["finish"] or {}).get("p50"))
    ]
    assert finishes[0] == finishes[1] or abs(finishes[0] - finishes[1]) < timedelta(seconds=1)
    assert film.plans()[1].probability == film.forecast.probability
    # A plan in which nothing changes needs what the forecast says, of as many hours.
    held = []
    for shot in project.shots[:1]:
        held = ["--set", f"{shot.name}.samples={shot.settings.samples}"]
    plan = json.loads(said(capsys, "plan", path, "--goal", "missing", "--json", *held))
    assert plan["machine_hours"]["p50"] <= ledger.likely_h * 1.001


def test_a_plan_that_changes_nothing_has_the_ledger_of_the_forecast(walked):
    """Every lever is held: the plan is the film as it stands, by the same draws and the same rule."""
    _, project, film = walked
    held = film.with_project(project.replace(shots=tuple(shot.replace(pins=LEVERS) for shot in project.shots)))
    confidence = project.delivery.confidence
    mine, theirs = held.plan("missing").ledger(confidence), ledger_of(film.forecast, confidence)
    assert (mine.likely_h, mine.low_h, mine.high_h) == pytest.approx((theirs.likely_h, theirs.low_h, theirs.high_h))
    assert (mine.safe_h, mine.available_h) == pytest.approx((theirs.safe_h, theirs.available_h), rel=1e-2)
    assert (mine.apart == theirs.apart) or abs(mine.spare_h - theirs.spare_h) < 0.02 * theirs.available_h


def test_the_fall_ends_at_the_likely_hours_and_what_is_written_of_it_sums(walked):
    _, project, film = walked
    fall = film_waterfall([shot_waterfall(project, *film.known, shot) for shot in project.shots])
    likely = film.forecast.hours.middle
    assert fall.plan.middle == pytest.approx(likely, rel=1e-9)
    asked = Film(project.replace(shots=tuple(shot.replace(plan=None) for shot in project.shots)))
    assert fall.asked.middle == pytest.approx(asked.forecast.hours.middle, rel=1e-9)
    bars, unit = fall.bars(), fall.unit
    levels = [round(fall.asked.middle / unit) * unit, *(bar.end for bar in bars)]
    for before, one in zip(levels, bars, strict=False):
        assert one.start == pytest.approx(before, abs=1e-9)
    assert levels[-1] == pytest.approx(round(fall.plan.middle / unit) * unit, abs=1e-9)


def test_nothing_is_written_with_an_exponent(walked, capsys):
    path, *_ = walked
    for command in (("estimate",), ("plan",), ("finish",)):
        text = said(capsys, command[0], path, *command[1:])
        assert not re.search(r"\d[eE][+-]?\d", text), text
        assert "of money" not in text


def test_shots_come_to_the_film(walked):
    _, project, film = walked
    found = film.forecast
    whole = sum(shot.hours.middle for shot in found.shots) * (1 + project.delivery.retake_share)
    assert whole == pytest.approx(found.hours.middle, rel=0.12)  # a middle of a sum is no sum of middles
    for shot, own in zip(project.shots, found.shots, strict=True):
        assert own.hours.middle == pytest.approx(own.seconds.middle * shot.rendered_count(shot.settings) / HOUR_S)


def test_delivery_of_a_film_without_hours_says_so():
    project = make_project((make_shot("010"),), well_timed()).replace(
        delivery=Delivery(deadline="2031-04-21T10:01Z", timezone="UTC")
    )
    assert ledger_of(Film(project).forecast, 0.9).spare_h < 0
