"""The `.pemlo` file: round trips, damage, hostility, and a kill in the middle of a save."""

import json
import os
import signal
import subprocess
import sys
import textwrap
import time
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from by_day import cases
from film import make_project, make_shot, well_timed
from pemlo.core.errors import FileError, InputError, PemloError
from pemlo.core.persistence.document import from_text, read_project, to_text, write_project
from pemlo.core.persistence.upgrade import VERSION
from pemlo.core.project.machines import Machine, OtherHours
from pemlo.core.project.names import safe_name
from pemlo.core.project.scenes import scene_of
from pemlo.core.project.shots import Shot
from pemlo.demo import DEMO_FILE, demo_project

OLD_FILES = sorted((Path(__file__).parents[2] / "data").glob("version_*.pemlo"))


def test_what_is_written_reads_back(tmp_path):
    other = OtherHours(day="2031-04-22", hours="off")
    machines = (Machine(name="desk", hours="Mon-Fri 19:00-08:00", exceptions=(other,), price_per_hour=2.5),)
    project = make_project(trials=well_timed(), machines=machines, timezone="Europe/Lisbon")
    path = tmp_path / "film.pemlo"
    write_project(project, path)
    assert read_project(path) == project
    assert list(tmp_path.iterdir()) == [path]


names = st.text(st.characters(exclude_categories=["Cs"]), min_size=1, max_size=20).map(safe_name).filter(bool)


@given(names, st.integers(-1000, 1000), st.integers(1, 500), st.integers(1, 9))
def test_any_names_and_numbers_survive(name, first, count, step):
    shot = Shot(name=name, first=first, last=first + count, step=step, asked={"samples": count})
    project = make_project(shots=(shot,))
    assert from_text(to_text(project), "x") == project


@pytest.mark.parametrize("path", OLD_FILES, ids=lambda path: path.name)
def test_files_of_every_version_still_open(path):
    project = read_project(path)
    assert project.title == "The Tide Clock"
    assert len(project.shots) == 10


def test_there_is_an_old_file_of_every_version():
    assert [path.name for path in OLD_FILES] == [f"version_{number}.pemlo" for number in range(1, VERSION + 1)]


def test_names_of_an_old_file_are_made_to_go_everywhere_they_stand():
    project = make_project((make_shot("a b"), make_shot("a_b"), make_shot("c")), tuple(well_timed("a b")))
    data = json.loads(to_text(project)) | {"version": 1}
    text = json.dumps(data).replace('"a b"', json.dumps("a/b"))
    data = json.loads(text)
    data["shots"][2] |= {"after": ["a/b"], "part_of": "../c", "name": "-c"}
    data["launch"] = [{"shot": "a/b"}]
    found = from_text(json.dumps(data), "old.pemlo")
    assert [shot.name for shot in found.shots] == ["a_b 2", "a_b", "c"]
    assert (found.shots[2].after, found.launch[0].shot) == (("a_b 2",), "a_b 2")
    assert found.shots[2].part_of == ".._c"
    assert len(found.trials_of("a_b 2")) == len(project.trials)
    with pytest.raises(InputError, match="holds “/”, which a file name cannot"):
        from_text(json.dumps(data | {"version": 2}), "new.pemlo")


def test_a_number_of_thousands_of_digits_is_refused_in_our_words():
    text = to_text(make_project()).replace('"first": 1,', f'"first": {"9" * 5000},', 1)
    with pytest.raises(FileError, match="99999999999999999999… is too large a number") as caught:
        from_text(text, "film.pemlo")
    assert "4300" not in str(caught.value)


def test_the_demo_is_whole():
    project = demo_project()
    assert sum(shot.frame_count for shot in project.shots) == 1204
    assert project.start.isoformat().startswith("2031-04-21T10:00")


def test_unknown_keys_are_kept_and_a_newer_version_is_refused(tmp_path):
    data = json.loads(to_text(make_project()))
    data["mood"] = {"of": ["calm"]}
    data["shots"][0]["asked"]["later"] = 3
    path = tmp_path / "film.pemlo"
    path.write_text(json.dumps(data))
    write_project(read_project(path), path)
    again = json.loads(path.read_text())
    assert again["mood"] == {"of": ["calm"]}
    assert again["shots"][0]["asked"]["later"] == 3
    with pytest.raises(FileError, match="newer Pemlo"):
        from_text(json.dumps({**data, "version": VERSION + 1}), "film.pemlo")


GOOD = to_text(make_project(trials=well_timed()))


@pytest.mark.parametrize(
    "text",
    [
        "", " ", "null", "[]", "{}", "42", '"pemlo"', '{"format": "pemlo"}', '{"format": "pemlo", "version": "1"}',
        '{"format": "pemlo", "version": true}', '{"format": "pemlo", "version": 0}', '{"format": "other", "version": 1}',
        '{"format": "pemlo", "version": 1}', GOOD[:100], GOOD[: len(GOOD) // 2], GOOD[:-3], "[" * 100_000,
        '{"a":' * 50_000, GOOD.replace('"frame": 1,', '"frame": NaN,', 1), GOOD.replace('"frame": 1,', f'"frame": {"9" * 5000},', 1),
        GOOD.replace('"seconds": ', '"seconds": -', 1), GOOD.replace('"shots": [', '"shots": [[],', 1),
        GOOD.replace('"title": "Test film"', '"title": {"__class__": "os.system"}', 1),
        GOOD.replace('"timezone": "UTC"', '"timezone": "../../etc/passwd"', 1),
        GOOD.replace('"trials": [', '"trials": 7, "old": [', 1),
    ],
    ids=range(25),
)  # fmt: skip
def test_damaged_and_hostile_files_are_refused_with_words(text):
    with pytest.raises(PemloError) as caught:
        from_text(text, "film.pemlo")
    assert "film.pemlo" in str(caught.value)
    assert len(str(caught.value)) < 8000


@given(st.integers(0, len(GOOD) - 4))
def test_a_file_cut_off_anywhere_is_refused(length):
    with pytest.raises(PemloError):
        from_text(GOOD[:length], "film.pemlo")


@given(st.integers(0, len(GOOD) - 1), st.characters(exclude_categories=["Cs"]))
def test_one_wrong_letter_is_refused_or_read_but_never_a_crash(place, letter):
    try:
        from_text(GOOD[:place] + letter + GOOD[place + 1 :], "film.pemlo")
    except PemloError as error:
        assert error.message


def test_what_cannot_be_opened_says_why(tmp_path):
    with pytest.raises(FileError, match="cannot be opened"):
        read_project(tmp_path / "none.pemlo")
    with pytest.raises(FileError, match="is no file"):
        read_project(tmp_path)
    binary = tmp_path / "picture.pemlo"
    binary.write_bytes(b"\x89PNG\xff\xfe\x00")
    with pytest.raises(FileError, match="not UTF-8"):
        read_project(binary)
    with pytest.raises(FileError, match="cannot be saved"):
        write_project(make_project(), tmp_path / "no" / "such" / "folder.pemlo")


def test_a_full_disk_leaves_the_old_file(tmp_path, monkeypatch):
    path = tmp_path / "film.pemlo"
    write_project(make_project(), path)
    before = path.read_text()

    def full(handle):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(FileError, match="there is no room"):
        write_project(make_project(trials=well_timed()), path)
    assert path.read_text() == before
    assert list(tmp_path.iterdir()) == [path]


# Each line that it reads starts a process that saves until it is killed; loading everything once is enough.
SAVER = """
    import os, sys
    from pathlib import Path
    from pemlo.core.persistence.document import read_project, write_project
    path = Path(sys.argv[1])
    for _ in sys.stdin:
        child = os.fork()
        if child:
            os.waitpid(child, 0)
            print("gone", flush=True)
            continue
        project = read_project(path)
        print(os.getpid(), flush=True)
        number = 0
        while True:
            number += 1
            write_project(project.replace(title=f"Save {number}"), path)
            print(number, flush=True)
"""


@pytest.mark.slow
def test_killed_many_times_while_saving_nothing_is_lost(tmp_path):
    path = tmp_path / "film.pemlo"
    write_project(make_project(trials=well_timed()), path)
    script = textwrap.dedent(SAVER)
    pipes = {"stdin": subprocess.PIPE, "stdout": subprocess.PIPE, "text": True}
    saver = subprocess.Popen([sys.executable, "-c", script, str(path)], **pipes)
    for kill in range(cases(100)):
        saver.stdin.write("\n")
        saver.stdin.flush()
        process = int(saver.stdout.readline())
        time.sleep(0.001 * (kill % 17))  # each dies at a place of its own in the run of saves
        os.kill(process, signal.SIGKILL)
        said = []
        # One that dies in the middle of a line leaves the rest of it to the next writer.
        while not (line := saver.stdout.readline()).endswith("gone\n"):
            assert line, "the saver has ended"
            said += [int(line)] if line.strip().isdigit() else []
        found = read_project(path)
        assert found.trials == make_project(trials=well_timed()).trials
        last = int(found.title.removeprefix("Save ")) if found.title.startswith("Save") else 0
        assert last >= (said[-1] if said else 0)
        write_project(make_project(trials=well_timed()), path)
    saver.stdin.close()
    assert saver.wait() == 0
    saver.stdout.close()
    assert [one for one in tmp_path.iterdir() if one != path] == []


def test_problems_are_listed_with_their_place():
    data = json.loads(GOOD)
    data["shots"][1]["asked"]["samples"] = 0
    data["delivery"]["confidence"] = 2
    with pytest.raises(InputError) as caught:
        from_text(json.dumps(data), "film.pemlo")
    places = [problem.where for problem in caught.value.problems]
    assert "film.pemlo, shots, number 2, asked, samples" in places
    assert "film.pemlo, delivery, confidence" in places


def test_the_demo_file_is_what_the_program_writes():
    assert to_text(read_project(DEMO_FILE)) == DEMO_FILE.read_text()


def test_the_trials_of_the_demo_are_renders_with_their_pictures():
    project = demo_project()
    small = [DEMO_FILE.parent / trial.picture.replace(".exr", ".small.png") for trial in project.trials]
    assert all(path.is_file() for path in small)
    judged = {path.name for path in DEMO_FILE.parent.glob("pictures/*.exr")}
    assert judged < {Path(trial.picture).name for trial in project.trials}
    # Of every shot that was timed something tells how it looks.
    assert {name[:3] for name in judged} == {trial.shot for trial in project.trials}
    assert sum(path.stat().st_size for path in DEMO_FILE.parent.rglob("*")) < 25 * 2**20
    assert {path.name for path in small} | judged == {path.name for path in DEMO_FILE.parent.glob("pictures/*")}
    for trial in project.trials:
        assert trial.seconds == pytest.approx(sum(trial.stage_seconds().values()), rel=1e-3)
        assert trial.noise > 0
        assert list(trial.noise_shape) == sorted(trial.noise_shape)
        assert (trial.least_samples if trial.most_seconds is None else 1) <= trial.mean_samples <= trial.samples
    assert all(scene_of(shot) for shot in project.shots)


def with_field(value: str) -> str:
    return GOOD.replace('"format"', f'"from_the_future": {value}, "format"', 1)


@pytest.mark.parametrize(
    ("value", "words"),
    [
        ("[" * 150 + "]" * 150, "more than 100 lists in each other"),
        ('{"a": ' * 90_000 + "1" + "}" * 90_000, "more than 100 lists in each other"),
        ("1e400", "1e400 is too large a number"),
        ('{"speed": 1, "speed": 2}', "“speed” stands twice in one place"),
    ],
)
def test_what_could_not_be_written_again_as_it_was_is_not_opened(value, words):
    with pytest.raises(FileError, match=words):
        from_text(with_field(value), "film.pemlo")


@pytest.mark.parametrize("value", ["[" * 90 + "]" * 90, '"half a pair: \\ud800"', "1e300"])
def test_unknown_data_is_written_as_it_was_read(tmp_path, value):
    path = tmp_path / "film.pemlo"
    write_project(from_text(with_field(value), "film.pemlo"), path)
    assert json.loads(path.read_text())["from_the_future"] == json.loads(value)
    assert read_project(path) == from_text(with_field(value), "film.pemlo")
