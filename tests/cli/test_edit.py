"""``pemlo edit`` and ``pemlo new --edit``."""

import json

from pemlo.cli.main import main
from pemlo.core.persistence.document import read_project, write_project
from pemlo.core.project.project import Project
from pemlo.core.project.shots import Shot
from pemlo.core.project.trials import Trial

LIST = """TITLE: REEL
001  A1  V  C  00:00:00:00 00:00:05:00 01:00:00:00 01:00:05:00
* FROM CLIP NAME: 010
002  A2  V  C  00:00:00:00 00:00:01:00 01:00:05:00 01:00:06:00
* FROM CLIP NAME: 030
"""


def film(tmp_path):
    shots = tuple(Shot(name=name, first=1, last=96, asked={"samples": 64}) for name in ("010", "020"))
    project = Project(
        title="x", start="2031-01-01T00:00Z", delivery={"deadline": "2031-01-02T00:00Z"}, shots=shots,
        machines=({"name": "blade"},), trials=(Trial(shot="010", frame=1, samples=64, seconds=100),),
    )  # fmt: skip
    write_project(project, tmp_path / "job.pemlo")
    (tmp_path / "reel.edl").write_text(LIST)
    return project


def test_what_changes_is_said_and_nothing_written(tmp_path, capsys):
    project = film(tmp_path)
    assert main(["edit", str(tmp_path / "job.pemlo"), str(tmp_path / "reel.edl")]) == 0
    said = capsys.readouterr().out
    assert "1 new, 1 gone, 1 longer" in said
    assert "01:00:05:00" in said
    assert "Machine-hours:" in said
    assert "Before: Makes" in said
    assert read_project(tmp_path / "job.pemlo") == project


def test_taken_with_handles(tmp_path, capsys):
    film(tmp_path)
    assert main(["edit", str(tmp_path / "job.pemlo"), str(tmp_path / "reel.edl"), "--take", "--handles", "8", "--json"]) == 0  # fmt: skip
    found = json.loads(capsys.readouterr().out)
    assert [(one["shot"], one["fate"], one["frames"]) for one in found["shots"]] == [("010", "longer", 24), ("030", "new", 24), ("020", "gone", -96)]  # fmt: skip
    assert found["before"]["machine_hours"]["p50"] > found["after"]["machine_hours"]["p50"]
    taken = read_project(tmp_path / "job.pemlo")
    assert [shot.name for shot in taken.shots] == ["010", "030"]
    assert {shot.handles for shot in taken.shots} == {8}
    assert taken.edited.name == "reel.edl"


def test_a_film_from_an_edit_and_from_a_folder_of_frames(tmp_path, capsys):
    (tmp_path / "reel.edl").write_text(LIST)
    frames = tmp_path / "frames"
    frames.mkdir()
    for number in (1, 2, 3):
        (frames / f"010.{number:04}.png").write_bytes(b"")
    common = [
        "new",
        "--title",
        "x",
        "--start",
        "2031-01-01T00:00",
        "--deadline",
        "2031-01-03T00:00",
        "--timezone",
        "UTC",
    ]
    assert (
        main(
            [
                *common,
                "--edit",
                str(tmp_path / "reel.edl"),
                "--samples",
                "32",
                "--handles",
                "6",
                "-o",
                str(tmp_path / "a.pemlo"),
            ]
        )
        == 0
    )
    made = read_project(tmp_path / "a.pemlo")
    assert [(shot.name, shot.first, shot.last, shot.asked.samples) for shot in made.shots] == [("010", 1, 120, 32), ("030", 1, 24, 32)]  # fmt: skip
    assert {shot.handles for shot in made.shots} == {6}
    assert (
        main([*common, "--edit", str(tmp_path / "reel.edl"), "--handles", "-1", "-o", str(tmp_path / "c.pemlo")]) == 2
    )
    assert not (tmp_path / "c.pemlo").exists()
    assert main([*common, "--frames", str(frames), "-o", str(tmp_path / "b.pemlo")]) == 0
    assert [(shot.name, shot.last) for shot in read_project(tmp_path / "b.pemlo").shots] == [("010", 3)]


def test_a_broken_list_says_its_line(tmp_path, capsys):
    film(tmp_path)
    (tmp_path / "reel.edl").write_text(LIST.replace("00:00:05:00", "00:00:05:24", 1))
    assert main(["edit", str(tmp_path / "job.pemlo"), str(tmp_path / "reel.edl")]) == 2
    assert "reel.edl, line 2" in capsys.readouterr().err
