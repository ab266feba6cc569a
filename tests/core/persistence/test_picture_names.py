"""Pictures stay found wherever a project is saved."""

from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from film import exact_trial, make_project
from pemlo.core.persistence.picture_names import with_short_names, with_whole_names

PARTS = st.lists(st.sampled_from(["..", "renders", "a b", "ü", "..hidden"]), max_size=3)
FOLDERS = st.lists(st.sampled_from(["film", "film 2", "work", "x"]), max_size=3).map(lambda parts: Path("/", *parts))


def project_with(*names: str):
    trials = [exact_trial("010", 5, 16 + number).replace(picture=name) for number, name in enumerate(names)]
    return make_project(trials=tuple(trials))


def file_of(folder: Path, name: str) -> Path:
    return Path(folder, name)


@given(first=FOLDERS, then=FOLDERS, parts=PARTS, absolute=st.booleans())
def test_saved_elsewhere_the_same_files_are_meant(first, then, parts, absolute):
    name = str(Path("/" if absolute else "", *parts, "a.exr"))
    whole = with_whole_names(project_with(name, ""), first)
    saved = with_short_names(whole, then)
    assert file_of(then, saved.trials[0].picture) == file_of(first, name)
    assert saved.trials[1].picture == ""
    assert with_whole_names(saved, then) == whole


def test_names_in_the_folder_are_short_in_the_file():
    whole = with_whole_names(project_with("renders/a.exr", "/elsewhere/b.exr"), Path("/film"))
    assert [trial.picture for trial in whole.trials] == ["/film/renders/a.exr", "/elsewhere/b.exr"]
    here, there = (with_short_names(whole, Path(folder)) for folder in ("/film", "/other"))
    assert [trial.picture for trial in here.trials] == ["renders/a.exr", "/elsewhere/b.exr"]
    assert [trial.picture for trial in there.trials] == ["/film/renders/a.exr", "/elsewhere/b.exr"]


def test_a_project_whose_names_are_right_stays_the_same_object():
    project = project_with("", "/film/a.exr")
    assert with_whole_names(project, Path("/film")) is project
