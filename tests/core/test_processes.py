"""Nothing that lies beside an input is run: modules are planted where commands begin, and none of them is loaded."""

import ast
import os
import subprocess
import sys
from pathlib import Path

import pytest

import pemlo
from film import make_project, well_timed
from pemlo.core.editing.apart import read_edit_apart
from pemlo.core.errors import PemloError
from pemlo.core.persistence.document import write_project
from pemlo.core.processes import command_of, finished, started

EDIT = """TITLE: REEL
001  010  V  C  00:00:00:00 00:00:01:00 00:00:00:00 00:00:01:00
"""
PLANTED = (
    *("json", "re", "resource", "csv", "numpy", "scipy", "pydantic", "fileseq", "opentimelineio", "numba", "av"),
    *("sitecustomize", "usercustomize", "encodings", "runpy", "selectors", "sqlite3", "distributed", "jinja2"),
)


@pytest.fixture
def delivered(tmp_path):
    """A folder as it may be delivered: a film, an edit, and modules that leave a mark where they are run."""
    folder, marks = tmp_path / "delivered", tmp_path / "marks"
    folder.mkdir()
    marks.mkdir()
    for name in (*PLANTED, "pemlo"):
        (folder / f"{name}.py").write_text(f"open({str(marks / name)!r}, 'w').close()\nraise SystemExit(7)\n")
    (folder / ".numba_config.yaml").write_text(f"disable_jit: 1\ncache_dir: {folder / 'cache'}\n")
    write_project(make_project(trials=tuple(well_timed())), folder / "job.pemlo")
    (folder / "reel.edl").write_text(EDIT)
    return folder, marks


def test_an_edit_is_read_beside_planted_modules(delivered, monkeypatch):
    folder, marks = delivered
    monkeypatch.chdir(folder)
    monkeypatch.setenv("PYTHONPATH", str(folder))
    assert [shot.name for shot in read_edit_apart(Path("reel.edl"), 24).shots] == ["010"]
    assert not list(marks.iterdir())


@pytest.mark.parametrize("command", [
    ["edit", "job.pemlo", "reel.edl"], ["estimate", "job.pemlo"], ["check", "job.pemlo"], ["case", "job.pemlo", "-o", "c.html"],
    ["missing", "job.pemlo", "--shot", "010", "--place", "{shot}.{frame}.exr"], ["sheet", "job.pemlo"],
    ["watch", "job.pemlo", "--once", "--place", "{shot}.{frame}.exr"], ["new", "--title", "x", "--start", "2031-04-21T10:00", "--deadline",
     "2031-04-25T10:00", "--edit", "reel.edl", "-o", "new.pemlo"],
])  # fmt: skip
def test_no_command_runs_what_lies_where_it_is_started(delivered, command):
    folder, marks = delivered
    program = Path(sys.executable).with_name("pemlo")
    run = subprocess.run([program, *command], cwd=folder, capture_output=True, text=True, timeout=120, check=False)
    assert run.returncode in (0, 3), run.stderr
    assert not list(marks.iterdir())


SAYS = "from pemlo.core.farm import run_kernel; import numba; print(numba.config.DISABLE_JIT, numba.config.CACHE_DIR)"


def test_the_compiler_takes_nothing_from_the_folder(delivered, monkeypatch):
    """What it read there could say from where compiled code, which is run, is taken."""
    pytest.importorskip("yaml")  # with the cluster's packages; without them nothing is read
    folder, _ = delivered
    environment = {**os.environ, "PYTHONSAFEPATH": "1"}
    said = [
        subprocess.run(
            [sys.executable, "-c", code], cwd=folder, env=environment, capture_output=True, text=True, check=True
        ).stdout.split()
        for code in (SAYS, SAYS.replace("from pemlo.core.farm import run_kernel; ", ""))
    ]
    assert said == [["0"], ["1", str(folder / "cache")]]  # the second: as it would be otherwise


def test_the_compiler_is_loaded_in_one_place():
    top = Path(pemlo.__file__).parent
    loads = {
        path.relative_to(top).as_posix()
        for path in top.rglob("*.py")
        for node in ast.walk(ast.parse(path.read_text()))
        if (isinstance(node, ast.Import) and any(name.name.split(".")[0] == "numba" for name in node.names))
        or (isinstance(node, ast.ImportFrom) and (node.module or "").split(".")[0] == "numba")
    }  # fmt: skip
    assert loads == {"core/compiler.py"}


def test_what_is_planted_would_run_otherwise(delivered):
    folder, marks = delivered
    subprocess.run([sys.executable, "-m", "pemlo", "--version"], cwd=folder, check=False, capture_output=True)
    assert list(marks.iterdir())


def test_the_environment_does_not_say_where_code_is_from(delivered, monkeypatch):
    folder, marks = delivered
    monkeypatch.setenv("PYTHONPATH", str(folder))
    monkeypatch.setenv("PYTHONSTARTUP", str(folder / "json.py"))
    run = finished(command_of("pemlo", "--version"), 60)
    assert run.stdout.startswith(b"pemlo ")
    assert not list(marks.iterdir())


def test_a_process_begins_in_the_root_and_in_a_session_of_its_own():
    process = started([sys.executable, "-c", "import os; print(os.getcwd(), os.getsid(0) == os.getpid())"])
    assert process.communicate()[0].split() == ["/", "True"]
    assert Path.cwd() != Path("/")


def test_an_edit_that_eats_memory_is_refused(tmp_path):
    """A list inside of lists: the reader's process ends, and this one does not."""
    path = tmp_path / "deep.otio"
    path.write_text("[" * 2_000_000)
    with pytest.raises(PemloError):
        read_edit_apart(path, 24)


STARTERS = {"subprocess", "multiprocessing", "pty", "concurrent.futures.process"}
CALLS = {"system", "popen", "execv", "execvp", "execl", "spawnv", "startDetached", "posix_spawn", "fork"}
# The second takes its errors; a person's own command is started by a program of its own.
ALLOWED = {"core/processes.py", "core/editing/apart.py", "core/trialrun/keeper.py"}


def test_processes_are_started_in_one_place():
    top = Path(pemlo.__file__).parent
    found, queues = set(), set()
    for path in top.rglob("*.py"):
        where = path.relative_to(top).as_posix()
        text = path.read_text()
        for node in ast.walk(ast.parse(text)):
            if (
                (isinstance(node, ast.Import) and STARTERS & {name.name for name in node.names})
                or (isinstance(node, ast.ImportFrom) and node.module in STARTERS)
                or (isinstance(node, ast.Attribute) and node.attr in CALLS)
            ):
                found.add(where)
        if "sys.executable" in text:
            found.add(where)
        if "QProcess(" in text:
            queues.add(where)
            assert "command_of(" in text
    assert found == ALLOWED
    assert queues == {"app/small_farm.py"}
