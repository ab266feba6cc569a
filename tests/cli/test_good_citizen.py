"""The command line says what is there, what was meant, and ends quietly when it is stopped."""

import csv
import io
import json
import os
import shlex
import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from film import exact_trial, make_project
from pemlo.cli.main import COMMANDS, EXAMPLES, is_command, main, parser
from pemlo.core.persistence.document import read_project, write_project
from pemlo.demo import DEMO_FILE

ROOT = Path(__file__).parents[2]


@pytest.mark.parametrize(
    ("typed", "meant"),
    [("estimat", "estimate"), ("finsh", "finish"), ("plans", "plan"), ("missin", "missing")],
)
def test_a_command_that_is_none_is_answered_with_the_one_that_was_meant(capsys, typed, meant):
    assert is_command([typed, "film.pemlo"])
    assert main([typed, "film.pemlo"]) == 2
    said = capsys.readouterr().err
    assert f"“{typed}”. Did you mean {meant}?" in said
    assert "pemlo help" in said


def test_what_is_like_no_command_gets_no_guess_and_no_orders(capsys):
    assert main(["\x1b[2Jzzzzzz"]) == 2
    said = capsys.readouterr().err
    assert "Did you mean" not in said
    assert "\x1b" not in said


def test_projects_and_options_open_the_window(tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    (tmp_path / "film").write_text("")
    for arguments in ([], ["film"], ["film.pemlo"], ["--demo"], ["folder/film"]):
        assert not is_command(arguments)


@pytest.mark.parametrize("name", COMMANDS)
def test_help_of_each_command_has_an_example_that_its_parser_takes(capsys, name):
    with pytest.raises(SystemExit) as ended:
        main(["help", name])
    assert ended.value.code == 0
    assert "Example: pemlo " in " ".join(capsys.readouterr().out.split())
    assert parser(name).parse_args(shlex.split(EXAMPLES[name])).command == name


def test_help_lists_the_commands_in_the_order_of_the_work(capsys):
    with pytest.raises(SystemExit):
        main(["help"])
    said = capsys.readouterr().out
    places = [said.index(f"\n    {name} ") for name in COMMANDS]
    assert places == sorted(places)


def test_ctrl_c_ends_it_with_130_and_without_a_traceback():
    code = "import sys; from pemlo.__main__ import main; print('on', flush=True); sys.exit(main())"
    run = subprocess.Popen(
        [sys.executable, "-c", code, "finish", str(DEMO_FILE), "--takes"],
        stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True,
        env={**os.environ, "PYTHONPATH": os.pathsep.join(sys.path)},
        preexec_fn=lambda: signal.signal(signal.SIGINT, signal.SIG_DFL),  # noqa: PLW1509 - in the background it would be ignored
    )  # fmt: skip
    assert run.stdout.readline() == "on\n"
    time.sleep(1.5)
    run.send_signal(signal.SIGINT)
    _, said = run.communicate(timeout=60)
    assert run.returncode == 130
    assert "Traceback" not in said


def piped(*arguments, text=b"", **environment):
    """Run a command as a shell does, with something piped into it."""
    return subprocess.run(
        [sys.executable, "-m", "pemlo", *arguments], input=text, capture_output=True, timeout=120, check=False,
        env={**os.environ, "PYTHONPATH": os.pathsep.join(sys.path), **environment},
    )  # fmt: skip


def test_a_project_and_a_table_come_from_standard_input(tmp_path):
    film = make_project(trials=(exact_trial("010", 50, 256),))
    write_project(film, tmp_path / "film.pemlo")
    by_name = piped("estimate", str(tmp_path / "film.pemlo"), "--csv")
    by_pipe = piped("estimate", "-", "--csv", text=(tmp_path / "film.pemlo").read_bytes())
    assert (by_pipe.returncode, by_pipe.stdout) == (0, by_name.stdout)
    table = b"shot,first,last,samples\n010,1,10,64\n"
    out = tmp_path / "new.pemlo"
    told = ("--title", "T", "--start", "2031-04-21T10:00", "--deadline", "2031-04-24T18:00", "-o", str(out))
    made = piped("new", *told, "--shots", "-", text=table)
    assert made.returncode == 0, made.stderr
    assert [shot.name for shot in read_project(out).shots] == ["010"]
    twice = piped("new", *told, "--shots", "-", "--machines", "-", text=table)
    assert twice.returncode == 2
    assert b"Standard input is the shots already" in twice.stderr


def test_what_comes_from_standard_input_may_be_anything():
    for text in (b"", b"{", b"\xff\xfe\x00", b"[" * 100_000, b'{"format":"pemlo","version":999}'):
        run = piped("estimate", "-", text=text)
        assert run.returncode == 2, text[:20]
        assert b"Traceback" not in run.stderr
        assert run.stderr.startswith(b"pemlo: ")
    refused = piped("plan", "-", "--adopt", text=DEMO_FILE.read_bytes())
    assert refused.returncode == 2
    assert b"cannot be written into standard input" in refused.stderr


def test_csv_says_what_json_says(tmp_path, capsys):
    film = make_project(trials=(exact_trial("010", 50, 256), exact_trial("010", 50, 64)))
    path = tmp_path / "film.pemlo"
    write_project(film, path)
    for command, rows in (("estimate", "shots"), ("plan", "shots"), ("check", "checks"), ("finish", "shots")):
        main([command, str(path), "--json"])
        data = json.loads(capsys.readouterr().out)[rows]
        main([command, str(path), "--csv"])
        table = list(csv.DictReader(io.StringIO(capsys.readouterr().out)))
        assert len(table) == len(data), command
        assert [row.get("shot") for row in table] == [row["shot"] or "" for row in data]
    main(["estimate", str(path), "--csv"])
    first = next(csv.DictReader(io.StringIO(capsys.readouterr().out)))
    main(["estimate", str(path), "--json"])
    hours = json.loads(capsys.readouterr().out)["shots"][0]["machine_hours"]
    assert [float(first[f"machine_hours_{name}"]) for name in hours] == list(hours.values())


def test_nothing_is_written_for_a_terminal_where_there_is_none(tmp_path):
    path = tmp_path / "film.pemlo"
    write_project(make_project(trials=(exact_trial("010", 50, 256),)), path)
    for environment in ({}, {"NO_COLOR": "1"}, {"TERM": "dumb"}):
        run = piped("finish", str(path), "--draws", "4", **environment)
        assert run.returncode == 0
        assert b"\x1b" not in run.stdout + run.stderr
        assert b"\r" not in run.stdout + run.stderr


def test_completions_and_the_man_page_are_those_of_the_commands():
    sys.path.insert(0, str(ROOT / "studies"))
    try:
        from shell_files import FOLDER, files
    finally:
        sys.path.pop(0)
    for name, text in files().items():
        # By words: where lines end goes with the smallest part of Python's version.
        assert (FOLDER / name).read_text().split() == text.split(), f"{name} is old: ./dev shell-files writes it anew"


@pytest.mark.skipif(shutil.which("bash") is None, reason="needs bash")
@pytest.mark.parametrize(("typed", "offered"), [("est", "estimate"), ("fin", "finish")])
def test_bash_completes_a_command(typed, offered):
    words = f"COMP_WORDS=(pemlo {typed}); COMP_CWORD=1; _shtab_pemlo pemlo {typed}; echo ${{COMPREPLY[@]}}"
    script = f"source {ROOT}/packaging/shell/pemlo; {words}"
    run = subprocess.run(["bash", "-c", script], capture_output=True, text=True, check=True)
    assert run.stdout.split() == [offered]
