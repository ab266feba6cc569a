"""Files are written whole or not at all, and what belongs to others stays as it is."""

import os
import stat
import subprocess
import sys
import textwrap
from pathlib import Path

import pytest

from pemlo.core.errors import FileError
from pemlo.core.files.fingerprint import fingerprint
from pemlo.core.persistence.whole_files import read_whole, write_whole


def test_a_link_stays_a_link_and_its_target_is_written(tmp_path):
    target, link = tmp_path / "film.pemlo", tmp_path / "today.pemlo"
    target.write_text("old")
    link.symlink_to(target.name)
    write_whole("new", link)
    assert link.is_symlink()
    assert target.read_text() == "new"


@pytest.mark.parametrize("rights", [0o600, 0o640, 0o664])
def test_rights_stay_as_they_were(tmp_path, rights):
    path = tmp_path / "film.pemlo"
    path.write_text("old")
    path.chmod(rights)
    write_whole("new", path)
    assert stat.S_IMODE(path.stat().st_mode) == rights


def test_a_new_file_has_the_rights_that_the_person_gives_new_files(tmp_path):
    before = os.umask(0o027)
    try:
        write_whole("new", tmp_path / "film.pemlo")
    finally:
        os.umask(before)
    assert stat.S_IMODE((tmp_path / "film.pemlo").stat().st_mode) == 0o640


def test_a_read_only_file_is_not_written(tmp_path):
    path = tmp_path / "film.pemlo"
    path.write_text("old")
    path.chmod(0o444)
    with pytest.raises(FileError, match="is read-only"):
        write_whole("new", path)
    assert path.read_text() == "old"
    assert list(tmp_path.iterdir()) == [path]


@pytest.mark.parametrize("name", [".", "/", "", "folder"])
def test_a_folder_is_no_file_to_write(tmp_path, monkeypatch, name):
    monkeypatch.chdir(tmp_path)
    (tmp_path / "folder").mkdir()
    with pytest.raises(FileError, match="is a folder and no file"):
        write_whole("new", Path(name))


def test_names_are_no_patterns(tmp_path):
    others = [tmp_path / name for name in (".*.pemlo.1.saving", ".film.pemlo.99.saving", ".pemlo-notes", "a.saving")]
    for other in others:
        other.write_text("not ours")
    write_whole("new", tmp_path / "*.pemlo")
    assert all(other.read_text() == "not ours" for other in others)


def test_what_a_dead_saver_left_goes_and_what_a_living_one_writes_stays(tmp_path):
    dead, living = (tmp_path / f".pemlo-{name}.saving" for name in ("dead", "living"))
    dead.write_text("half")
    script = f"""
        import fcntl
        file = open({str(living)!r}, "w")
        fcntl.flock(file, fcntl.LOCK_EX)
        print("held", flush=True)
        input()
    """
    pipes = {"stdin": subprocess.PIPE, "stdout": subprocess.PIPE, "text": True}
    with subprocess.Popen([sys.executable, "-c", textwrap.dedent(script)], **pipes) as saver:
        assert saver.stdout.readline() == "held\n"
        write_whole("new", tmp_path / "film.pemlo")
        assert (dead.exists(), living.exists()) == (False, True)
        saver.communicate("\n")


MANY = """
    import sys
    from pathlib import Path
    from pemlo.core.persistence.whole_files import write_whole
    for number in range(200):
        write_whole(f"{sys.argv[2]} {number}" * 500, Path(sys.argv[1]))
"""


def test_two_savers_at_once_are_both_served(tmp_path):
    path = tmp_path / "film.pemlo"
    savers = [
        subprocess.Popen([sys.executable, "-c", textwrap.dedent(MANY), path, name], stderr=subprocess.PIPE, text=True)
        for name in ("one", "two")
    ]
    for saver in savers:
        assert saver.communicate(timeout=60)[1] == ""
    text = path.read_text()
    assert text in {f"{name} 199" * 500 for name in ("one", "two")}
    assert list(tmp_path.iterdir()) == [path]


def test_reading_has_a_limit_and_takes_files_only(tmp_path):
    path = tmp_path / "large"
    path.write_bytes(b"x" * 101)
    assert read_whole(path, 101, "") == b"x" * 101
    with pytest.raises(FileError, match="is larger than"):
        read_whole(path, 100, "Split it.")
    os.mkfifo(tmp_path / "pipe")
    for odd in (tmp_path, tmp_path / "pipe", Path("/dev/zero"), Path("/dev/null")):
        with pytest.raises(FileError, match="is no file"):
            read_whole(odd, 100, "")
    with pytest.raises(FileError, match="cannot be opened"):
        read_whole(Path("a\0b"), 100, "")


def test_a_fingerprint_tells_contents_apart(tmp_path):
    path = tmp_path / "film.pemlo"
    assert fingerprint(path) == ""
    path.write_text("one")
    first = fingerprint(path)
    path.touch()
    assert fingerprint(path) == first
    path.write_text("two")
    assert fingerprint(path) != first
