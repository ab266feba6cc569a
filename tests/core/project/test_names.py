"""Names from documents, tables, edits and lines: none leads to another folder, and none hides a character."""

import unicodedata

import pytest
from hypothesis import given
from hypothesis import strategies as st

from film import make_project, make_shot
from pemlo.core.editing.edit import shot_name
from pemlo.core.errors import InputError
from pemlo.core.persistence.csv_machines import read_machines
from pemlo.core.persistence.csv_shots import read_shots
from pemlo.core.project.names import LONGEST_NAME, file_part, safe_name
from pemlo.core.project.record import build
from pemlo.core.project.shots import Shot

BAD = [
    "../../x",
    "/abs/x",
    "a\\b",
    "..",
    ".",
    "a\nb",
    "\x1b[2J",
    "a\u202eb",
    "a\u2028b",
    "\ud800",
    "-rf",
    "--help",
    "a\x00",
    "a\u200bb",
]


@pytest.mark.parametrize("name", BAD)
def test_what_no_shot_may_be_called_is_refused_with_its_reason(name):
    with pytest.raises(InputError) as caught:
        build(Shot, {"name": name, "first": 1, "last": 2, "asked": {"samples": 4}}, "Shot 1")
    assert str(caught.value).startswith("Shot 1, name: ")
    assert "\x1b" not in str(caught.value)


@pytest.mark.parametrize("name", ["night 2", "010_v003", "Süd", "夜", "a.b", "~x", "{shot}", "a'b", "$(x)"])
def test_other_names_stay(name):
    assert make_shot("010").replace(name=name).name == name


def test_a_table_says_the_line_and_the_column():
    with pytest.raises(InputError, match="line 3, column shot: holds “/”, which a file name cannot"):
        read_shots("shot,first,last,samples\n010,1,2,4\n../../x,1,2,4\n")
    with pytest.raises(InputError, match=r"line 2, column machine: holds a character that cannot be seen \(U\+001B\)"):
        read_machines("machine,speed\na\x1b[31mb,1\n")


@pytest.mark.parametrize("field", ["part_of", "look", "after"])
def test_what_names_other_shots_is_held_too(field):
    with pytest.raises(InputError):
        make_shot("010").replace(**{field: ("a\nb",) if field == "after" else "a\nb"})


def test_launches_and_marks_name_shots_that_go():
    project = make_project()
    with pytest.raises(InputError):
        project.replace(launch=({"shot": "../x"},))


@given(st.text(max_size=80))
def test_whatever_others_call_a_thing_becomes_a_name_or_nothing(text):
    name = safe_name(text)
    assert len(name) <= LONGEST_NAME
    if name:
        assert file_part(name) == name == name.strip()


@given(st.text(st.characters(categories=["L", "N"]), min_size=1, max_size=40))
def test_names_of_letters_and_digits_are_left_as_they_are(text):
    assert safe_name(text) == text


def test_clips_become_shots_that_go():
    assert shot_name("seq/010.mov") == "seq_010"
    assert shot_name("a\x1b[31m\u202e") == "a[31m"
    assert not any(unicodedata.category(one) == "Cc" for one in shot_name("\x01x\x02"))
