"""Command lines from a template: whatever a name holds, a shell reads back the same arguments."""

import json
import shlex
import subprocess
import sys

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from by_day import cases
from film import make_project, make_shot
from pemlo.core.errors import InputError
from pemlo.core.project.edits import set_handles
from pemlo.core.project.names import file_part
from pemlo.handover.command_lines import FIELDS, Piece, command_line, whole_shots

NASTY = ["; rm -rf ~", "$(x)", "`id`", "a'b", 'a"b', "two words", "{shot}", "{{", "*", "~", "ö",
         "$HOME", "|cat", "&", "#no", "!x"]  # fmt: skip
TEMPLATE = "render {shot} -s {first} -e {last} --size={width}x{height} -m {machine}"


def project_with(name):
    return make_project((make_shot("010", 40).replace(name=name),))


def printed_by_a_shell(line):
    """The arguments that a real shell gives to a program."""
    program = f"{shlex.quote(sys.executable)} -c 'import json, sys; print(json.dumps(sys.argv[1:]))'"
    done = subprocess.run(["sh", "-c", f"{program} {line}"], capture_output=True, text=True, check=True)
    return json.loads(done.stdout)


@pytest.mark.parametrize("name", NASTY)
def test_a_shell_reads_back_the_same_arguments(name):
    project = project_with(name)
    line = command_line(TEMPLATE, project, Piece(project.shots[0], 1, 40, "old tower"))
    wanted = ["render", name.strip(), "-s", "1", "-e", "40", "--size=1920x1080", "-m", "old tower"]
    assert shlex.split(line) == wanted
    assert printed_by_a_shell(line) == wanted


def goes(text):
    try:
        return bool(file_part(text).strip())
    except ValueError:
        return False


@given(st.text(min_size=1, max_size=40).map(str.strip).filter(goes))
@settings(max_examples=cases(200))
def test_any_name_is_one_argument(name):
    project = project_with(name)
    assert shlex.split(command_line("a {shot} b", project, Piece(project.shots[0], 1, 2)))[1] == project.shots[0].name


def test_every_field_is_filled_in():
    project = set_handles(make_project(), 8)
    template = " ".join(f"{name}={{{name}}}" for name in FIELDS)
    line = command_line(template, project, whole_shots(project)[0])
    found = dict(part.split("=", 1) for part in shlex.split(line))
    assert set(found) == set(FIELDS)
    assert (found["first"], found["last"], found["frames"], found["samples"]) == ("-7", "108", "116", "256")


@pytest.mark.parametrize(
    ("template", "words"),
    [("", "is empty"), ("render {shto}", "is no field"), ("render {shot", "brace"), ("render '{shot}'", "inside of quotes"),
     ('render "a {shot}"', "inside of quotes"), ("a\nb", "one line"), ("render {}", "is no field"),
     ("render `{shot}`", "substitution"), ("render `date` {shot}", "substitution"), ("render $(x {shot})", "substitution"),
     ("render ${{x:-{shot}}}", "substitution"), ("render $'a' {shot}", "substitution"), ("cat <<{shot}", "substitution"),
     ("render ${shot}", "behind a \\$"), ("render # {shot}", "comment"), ("a;#{shot}", "comment"), ("render \\{shot}", "backslash"),
     ("render (( {shot} )) $(( {frames} ))", "substitution"), ('render "`" {shot}', "inside|substitution")],
)  # fmt: skip
def test_templates_that_cannot_be_filled_in_are_refused(template, words):
    project = make_project()
    with pytest.raises(InputError, match=words):
        command_line(template, project, whole_shots(project)[0])


def test_braces_can_be_written():
    project = make_project()
    assert command_line("a {{x}} {shot}", project, whole_shots(project)[0]) == "a {x} 010"


@pytest.mark.parametrize(
    "template",
    ["render {shot}#x", "render 'it''s' {shot}", "render a\\ b {shot}", "render --x=#{shot} 'a # b' {first}"],
)
def test_templates_that_only_look_odd_are_filled_in(template):
    project = project_with("x'; touch y #")
    line = command_line(template, project, whole_shots(project)[0])
    assert any("x'; touch y #" in word for word in printed_by_a_shell(line))


@pytest.mark.parametrize(
    ("fields", "words"),
    [({"cameras": ("-rf",)}, "camera of shot 010 begins with"), ({"place": "-o{frame}"}, "pattern of shot 010 begins")],
)
def test_what_a_program_would_take_for_an_option_is_refused(fields, words):
    shot = make_shot("010", 40).replace(**fields)
    project = make_project((shot,))
    with pytest.raises(InputError, match=words):
        command_line("render {camera} {pattern}", project, whole_shots(project)[0])
