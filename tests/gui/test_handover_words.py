"""What Hand-over says: states of shots, cells of the launch, fields of what later work needs."""

import pytest

from film import make_project, make_shot
from pemlo.core.errors import InputError
from pemlo.core.preflight.check_context import plan_row, situation_of
from pemlo.core.preflight.finding import FINE, UNKNOWN, WRONG, fine, not_known, wrong
from pemlo.core.preflight.pictures import settings_are_the_plans
from pemlo.core.project.edits import set_shot
from pemlo.gui.handover.launch_box import NEEDS
from pemlo.gui.handover.launch_columns import LAUNCH, launch_rows, launch_words
from pemlo.gui.handover.presenter import film_words, outcome_counts, shot_marks, shown_findings

COLUMNS = {column.title: column for column in LAUNCH}


def film(**launch):
    project = make_project((make_shot("010", 40), make_shot("020", 30)))
    row = plan_row(project, project.shots[0]).replace(**launch)
    return project.replace(launch=(row,)) if launch else project


FOUND = (
    wrong("range", "a.", "b.", "010"),
    not_known("size", "c.", "", "020"),
    fine("step", "020"),
    wrong("hours", "d.", "e."),
)


def test_the_film_at_a_glance():
    project = film()
    marks = shot_marks(project, FOUND)
    assert [(mark.shot, mark.state, mark.why) for mark in marks] == [("010", "wrong", "a."), ("020", "not known", "c.")]
    assert film_words(project, FOUND, typed=True) == (
        "0 of 2 shots ready, 1 with mistakes, 1 not fully known. The film itself has 1 mistake. The launch is checked."
    )
    assert film_words(project, (fine("x", "010"),), typed=False) == "2 of 2 shots ready. The plan itself is checked."
    assert film_words(project, None, typed=False) == "Checking…"
    assert {one.state for one in shot_marks(project, None)} == {"not checked"}


def test_which_findings_are_listed():
    assert outcome_counts(FOUND) == {WRONG: 2, UNKNOWN: 1, FINE: 1}
    listed = shown_findings(FOUND, (WRONG, UNKNOWN), ("020",), only_picked=True)
    assert [one.words for one in listed] == ["c.", "d."]  # those of the whole film always
    assert len(shown_findings(FOUND, (WRONG,), (), only_picked=False)) == 2


def test_what_is_not_as_planned_is_marked_in_its_cell():
    project = film(last=30, percent=50.0, samples=8)
    first, second = launch_rows(project)
    assert COLUMNS["last"].text(first) == "◆ 30"
    assert COLUMNS["percent"].text(first) == "◆ 50 %"
    assert COLUMNS["samples"].role(first) == "limit"
    assert COLUMNS["first"].text(first) == "1"
    assert COLUMNS["last"].text(second) == "30"
    assert second.place is None
    assert launch_words(project) == "1 row, 1 not as planned (◆): 010 last, percent, samples."
    assert launch_words(film()).startswith("As planned.")
    assert launch_words(film(samples=256)) == "1 row, all as planned."


def test_every_setting_of_the_plan_is_held_against_the_launch():
    off = {"most_seconds": 60.0, "split": (2, 1, 1), "switches": ("haze",), "keep": ("light",), "way": "fine"}
    project = film(**off)
    said = launch_words(project)
    assert said == "1 row, 1 not as planned (◆): 010 time limit, split, switches, kept, way."
    as_checked = [one.words for one in settings_are_the_plans(situation_of(project)) if one.outcome == WRONG]
    assert all(name in as_checked[0] for name in ("time limit", "split", "switches", "kept", "way"))
    assert launch_words(film(min_samples=4)) == "1 row, all as planned."  # without a threshold there is no least


@pytest.mark.parametrize(
    ("pattern", "said"),
    [("a.####.exr", "r/a.0001.exr"), ("a.@@@@.exr", "r/a.0001.exr"), ("a.%05d.exr", "r/a.00001.exr"),
     ("{shot}/{frame:04}.png", "r/010/0001.png"), ("a.exr", "–"), ("a.mp4", "r/a.mp4"), ("", "–"), ("{nonsense}.exr", "–")],
)  # fmt: skip
def test_the_first_file_stands_beside_its_pattern(pattern, said):
    (cells, *_) = launch_rows(film(pattern=pattern, folder="r"))
    assert COLUMNS["first file"].text(cells) == said


def test_ends_of_pieces_are_their_own():
    project = film(last=20)
    other = project.launch[0].replace(first=21, last=40)
    project = project.replace(launch=(*project.launch, other))
    assert all("◆" not in COLUMNS[name].text(one) for one in launch_rows(project) for name in ("first", "last"))


@pytest.mark.parametrize(
    ("title", "typed", "field", "value"),
    [
        ("last", "◆ 30", "last", 30), ("size", "1920 x 1080", "width", 1920), ("size", "–", "width", None),
        ("percent", "50 %", "percent", 50.0), ("threshold", "none", "threshold", 0.0), ("threshold", "–", "threshold", None), ("denoise", "frame", "denoise", "frame"),
        ("layers", "albedo, normal", "layers", ("albedo", "normal")), ("layers", "none", "layers", ()), ("layers", "–", "layers", None),
        ("holds", "display", "colour", "display"), ("resumes", "no", "resume", False), ("region", "off", "region", ""),
        ("min", "16", "min_samples", 16), ("limit", "none", "most_seconds", 0.0), ("limit", "4m", "most_seconds", 240.0),
        ("limit", "", "most_seconds", None), ("split", "2,1,1", "split", (2, 1, 1)), ("kept", "nothing", "keep", ()),
        ("switches", "haze, blur, haze", "switches", ("blur", "haze")), ("switches", "none", "switches", ()),
        ("kept", "light prepare", "keep", ("prepare", "light")), ("way", "usual", "way", ""), ("way", "fine 20", "way", "fine 20"),
        ("skips", "yes", "skips", True), ("bounces", "", "bounces", None), ("aspect", "2", "pixel_aspect", 2.0), ("folder", "r/010", "folder", "r/010"),
    ],
)  # fmt: skip
def test_a_typed_cell_becomes_a_row_of_the_launch(title, typed, field, value):
    project = film()
    changed = COLUMNS[title].edit(project, launch_rows(project)[0], typed)
    assert getattr(changed.launch[0], field) == value
    assert len(changed.launch) == 1
    again = COLUMNS[title].edit(changed, launch_rows(changed)[0], typed)
    assert again.launch == changed.launch


@pytest.mark.parametrize(("title", "typed"), [("last", "x"), ("size", "big"), ("percent", "-1"), ("holds", "maybe")])
def test_cells_that_cannot_be(title, typed):
    project = film()
    with pytest.raises(InputError):
        COLUMNS[title].edit(project, launch_rows(project)[0], typed)


@pytest.mark.parametrize(
    ("name", "typed", "value"),
    [("bits", "16", 16), ("bits", "any", 0), ("alpha", "yes", True), ("layers", "depth, motion", ("depth", "motion")),
     ("layers", "none", ()), ("colour", "scene-linear", "scene-linear"), ("colour", "any", ""), ("movie", "no", False)],
)  # fmt: skip
def test_what_later_work_needs(name, typed, value):
    field = next(one for one in NEEDS if one.name == name)
    project = field.edit(film(), typed)
    assert getattr(project.needs, name) == value
    assert field.edit(project, field.text(project)).needs == project.needs


def test_handles_are_set_for_all_shots_and_may_differ():
    (field,) = (one for one in NEEDS if one.name == "handles")
    project = field.edit(film(), "8")
    assert {shot.handles for shot in project.shots} == {8}
    assert field.text(project) == "8"
    assert field.text(set_shot(project, project.shots[0].name, handles=3)) == "differ"
    with pytest.raises(InputError):
        field.edit(project, "differ")
