"""The command line says what is there, what was meant, and ends quietly when it is stopped."""

import os
import signal
import subprocess
import sys
import time

import pytest

from pemlo.cli.main import COMMANDS, EXAMPLES, is_command, main, parser
from pemlo.demo import DEMO_FILE


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
    words = [word.strip('"') for word in EXAMPLES[name].split()]
    assert parser(name).parse_args(words).command == name


def test_help_lists_the_commands_in_the_order_of_the_work(capsys):
    with pytest.raises(SystemExit):
        main(["help"])
    said = capsys.readouterr().out
    places = [said.index(f"\n    {name} ") for name in COMMANDS]
    assert places == sorted(places)


def test_ctrl_c_ends_it_with_130_and_without_a_traceback():
    code = "import sys; from pemlo.__main__ import main; print('on', flush=True); sys.exit(main())"
    run = subprocess.Popen(
        [sys.executable, "-c", code, "finish", str(DEMO_FILE)],
        stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True,
        env={**os.environ, "PYTHONPATH": os.pathsep.join(sys.path)},
    )  # fmt: skip
    assert run.stdout.readline() == "on\n"
    time.sleep(1.5)
    run.send_signal(signal.SIGINT)
    _, said = run.communicate(timeout=60)
    assert run.returncode == 130
    assert "Traceback" not in said
