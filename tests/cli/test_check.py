"""``pemlo check``: exit codes, what is said, first frames."""

import json

import pytest

from film import make_project, make_shot, well_timed
from frame_files import ramp, write
from pemlo.cli.main import main
from pemlo.core.persistence.document import write_project
from pemlo.core.project.machines import Machine


@pytest.fixture
def job(tmp_path):
    project = make_project(
        (make_shot("010", 40),), well_timed("010", (1, 40)), (Machine(name="desk"),), width=48, height=32
    )
    write_project(project, tmp_path / "job.pemlo")
    return tmp_path / "job.pemlo"


def launch(job, line):
    path = job.with_name("launch.csv")
    path.write_text(f"shot,first,last,samples,pattern,folder\n{line}\n")
    return str(path)


def test_the_plan_itself_and_a_launch_that_is_right(job, capsys):
    assert main(["check", str(job)]) == 0
    assert "0 of 1 shot ready, 1 not fully known." in capsys.readouterr().out
    assert main(["check", str(job), "--launch", launch(job, "010,1,40,256,{shot}.{frame:04}.exr,r")]) == 0


def test_what_is_wrong_ends_with_three_and_says_how_to_mend_it(job, capsys):
    (job.parent / "r").mkdir()
    (job.parent / "r" / "010.0007.exr").touch()
    code = main(["check", str(job), "--launch", launch(job, "010,1,30,256,{shot}.{frame:04}.exr,r"), "--json"])
    assert code == 3
    wrong = [one for one in json.loads(capsys.readouterr().out)["checks"] if one["outcome"] == "wrong"]
    assert {(one["check"], one["mend"]) for one in wrong} == {
        ("range", "Set 010 to 1-40"), ("overwriting", "Write 010 into r/new"),
    }  # fmt: skip
    assert main(["check", str(job), "--launch", launch(job, "999,1,30,256,,")]) == 2


def test_the_first_frame_is_held_against_the_plan(job, capsys):
    middle = 77.0  # about what the trials say
    fine = write(job.with_name("fine.exr"), ramp(), "half", pemlo__scene="x", pemlo__seconds=middle, pemlo__samples=256,
                 pemlo__frame=20)  # fmt: skip
    assert main(["check", str(job), "--first-frame", f"010={fine}"]) in (0, 3)
    said = capsys.readouterr().out
    assert "first frame of 010 is" not in said
    slow = write(job.with_name("slow.exr"), ramp(), "half", pemlo__scene="x", pemlo__seconds=9000.0, pemlo__samples=16)
    assert main(["check", str(job), "--first-frame", f"010={slow}"]) == 3
    said = capsys.readouterr().out
    assert "samples 16, planned 256" in said
    assert "took 2 h 30 m" in said
    small = write(job.with_name("small.exr"), ramp((24, 16)), "half")
    assert main(["check", str(job), "--first-frame", f"010={small}"]) == 3
    assert "24×16 px, and 48×32 are planned" in capsys.readouterr().out
