"""The public interface: its recipes run, its names stand, nothing of the window is loaded."""

import doctest
import subprocess
import sys
from pathlib import Path

import pytest

import pemlo
from film import exact_trial, make_project, well_timed
from pemlo.core.errors import FileError, InputError
from pemlo.core.persistence.document import write_project
from pemlo.demo import DEMO_FILE

RECIPES = Path(__file__).parents[2] / "docs/reference/python.md"


def test_the_recipes_say_what_they_do(tmp_path):
    flags = doctest.ELLIPSIS | doctest.IGNORE_EXCEPTION_DETAIL
    found = doctest.testfile(
        str(RECIPES), module_relative=False, globs={"demo": DEMO_FILE, "folder": tmp_path}, optionflags=flags
    )
    assert (found.failed, found.attempted > 25) == (0, True)


def test_ten_recipes_stand_there():
    assert [
        line.split(".")[0]
        for line in RECIPES.read_text().splitlines()
        if line[:4] == "## " + line[3:4] and "." in line[:7]
    ] == [f"## {number}" for number in range(1, 11)]


@pytest.fixture(scope="module")
def film(tmp_path_factory):
    path = tmp_path_factory.mktemp("film") / "job.pemlo"
    write_project(make_project(trials=(*well_timed(), exact_trial("020", 5, 64))), path)
    return pemlo.open(path)


def test_a_film_never_changes_and_the_other_shares_what_is_the_same(film):
    before = film.to_dict()
    other = film.with_delivery(confidence=0.6)
    assert film.to_dict() == before
    assert other.forecast.likely_hours == film.forecast.likely_hours
    assert other.forecast.safe_hours < film.forecast.safe_hours
    assert other._core.fit is film._core.fit


def test_plain_data_holds_every_number_of_the_forecast(film):
    forecast = film.forecast
    data = forecast.to_dict()
    for name in ("likely_hours", "safe_hours", "available_hours", "chance"):
        assert data[name] == pytest.approx(getattr(forecast, name), rel=1e-5)
    assert data["finish"] == forecast.finish.isoformat(timespec="seconds")
    assert [one["shot"] for one in data["shots"]] == list(film.shots)


def test_what_is_not_known_is_none(tmp_path):
    write_project(make_project(), tmp_path / "new.pemlo")
    forecast = pemlo.open(tmp_path / "new.pemlo").forecast
    assert (forecast.likely_hours, forecast.safe_hours, forecast.chance, forecast.finish) == (None, None, None, None)
    assert forecast.available_hours > 0
    assert forecast.to_dict()["finish_90"] is None
    with pytest.raises(InputError, match="Nothing was timed"):
        pemlo.open(tmp_path / "new.pemlo").plan()


WRONG = {
    "no such shot": lambda film: film.with_settings("999", samples=3),
    "no such field": lambda film: film.with_trial("010", 1, 3.0, sampels=3),
    "not allowed": lambda film: film.with_trial("010", 1, -3.0),
    "no such machine": lambda film: film.with_machine("nowhere", count=3),
    "no such field of a delivery": lambda film: film.with_delivery(due="x"),
    "no such field of a machine": lambda film: film.with_machine("reference", sped=2),
    "no such goal": lambda film: film.plan("speed"),
    "no such lever": lambda film: film.plan(hold={"010.speed": 3}),
    "no such value": lambda film: film.with_asked("010", samples="many"),
}


@pytest.mark.parametrize("what", WRONG)
def test_what_is_wrong_is_said_and_nothing_vanishes(film, what):
    with pytest.raises(InputError) as caught:
        WRONG[what](film)
    assert caught.value.message


def test_a_file_that_is_none_is_said(tmp_path):
    with pytest.raises(FileError):
        pemlo.open(tmp_path / "none.pemlo")


def test_the_names_that_are_promised_stand():
    assert set(pemlo.__all__) == {"Film", "Forecast", "InputError", "PemloError", "Plan", "ShotForecast", "open"}
    assert set(pemlo.Forecast.__dataclass_fields__) == {
        "likely_hours", "safe_hours", "available_hours", "spare_hours", "chance", "finish", "finish_90", "verdict", "shots",
    }  # fmt: skip
    assert set(pemlo.Plan.__dataclass_fields__) == {
        "goal", "reached", "settings", "likely_hours", "safe_hours", "chance", "short_hours", "worst_ratio",
    }  # fmt: skip
    with pytest.raises(AttributeError):
        pemlo.nothing  # noqa: B018


def test_nothing_of_the_window_is_loaded():
    code = (
        "import pemlo, sys; loaded = set(sys.modules); film = pemlo.open(sys.argv[1]); film.forecast;"
        "print([m for m in sys.modules if m.split('.')[0] in ('PySide6', 'shiboken6')],"
        "      'numpy' in loaded)"
    )
    done = subprocess.run([sys.executable, "-c", code, str(DEMO_FILE)], capture_output=True, text=True, check=True)
    assert done.stdout.split() == ["[]", "False"]
