"""What excludes each other is refused by every command that would count on it, as the checks say it is wrong."""

import pytest

from film import make_project, make_shot, well_timed
from pemlo.cli.main import main
from pemlo.core.persistence.document import write_project


@pytest.fixture
def job(tmp_path):
    shot = make_shot(switches=("motion blur",), denoise="neighbours")
    path = tmp_path / "job.pemlo"
    write_project(make_project((shot,), well_timed()), path)
    return str(path)


@pytest.mark.parametrize("command", [("estimate",), ("plan",), ("finish",), ("compare",)])
def test_a_denoiser_that_looks_around_is_refused_beside_motion_blur(job, capsys, command):
    more = ("asked", "plan") if command[0] == "compare" else ()
    assert main([command[0], job, *more]) == 2
    said = capsys.readouterr().err
    assert "Shot 010, as asked" in said
    assert "cannot be had with motion blur" in said


def test_the_checks_and_the_renderer_say_the_same(job, tmp_path, capsys):
    assert main(["check", job]) == 3
    assert "takes motion blur for noise" in capsys.readouterr().out
    picture = str(tmp_path / "a.exr")
    wanted = ["--scene", "stairs", "--size", "16x9", "--samples", "1", "--denoise", "neighbours"]
    assert main(["render", *wanted, "--switches", "motion blur", "-o", picture]) == 2
    assert "takes motion blur for noise" in capsys.readouterr().err
    assert not (tmp_path / "a.exr").exists()
