"""What a frame's header tells of a launch: everything that the renderer was set to, rendered here for it."""

import pytest

from film import make_project, make_shot
from frame_files import ramp, write
from pemlo.cli.main import main
from pemlo.core.preflight.all_checks import run_checks
from pemlo.core.preflight.check_context import situation_of
from pemlo.core.preflight.finding import FINE, WRONG
from pemlo.core.preflight.from_header import row_from_header


@pytest.fixture(scope="module")
def frame(tmp_path_factory):
    path = tmp_path_factory.mktemp("rendered") / "010.0001.exr"
    wanted = "--scene stairs --size 32x18 --samples 8 --noise-threshold 0.05 --min-samples 3 --seconds 20 --split 2,1,1"
    arguments = [*wanted.split(), "--switches", "motion blur", "--keep", "prepare", "-o", str(path)]
    assert main(["render", *arguments]) == 0
    return path


def film(**asked):
    return make_project(shots=(make_shot("010", 20, **asked),), width=32, height=18)


def test_every_setting_of_the_frame_is_the_launchs(frame):
    row = row_from_header(film(), "010", frame)
    assert (row.samples, row.threshold, row.min_samples, row.most_seconds) == (8, 0.05, 3, 20.0)
    assert (row.split, row.switches, row.keep, row.region) == ((2, 1, 1), ("motion blur",), ("prepare",), "")


def test_a_limit_that_the_plan_does_not_have_is_found(frame):
    as_rendered = {
        "samples": 8,
        "noise_threshold": 0.05,
        "min_samples": 3,
        "split": (2, 1, 1),
        "switches": ("motion blur",),
    }
    project = film(**as_rendered, keep=("prepare",))
    launched = project.replace(launch=(row_from_header(project, "010", frame).replace(first=1, last=20),))
    found = {one.check: one for one in run_checks(situation_of(launched)) if one.shot == "010"}
    assert found["settings"].outcome == WRONG
    assert "20" in found["settings"].words
    mended = found["settings"].mend.change(launched)
    again = {one.check: one.outcome for one in run_checks(situation_of(mended)) if one.shot == "010"}
    assert again["settings"] == FINE


def test_of_another_renderer_what_it_does_not_say_is_not_known(tmp_path):
    path = write(tmp_path / "a.exr", ramp(), "half", spp=16, took=3.0)
    project = film()
    project = project.replace(watching=project.watching.replace(header_names=(("samples", "spp"), ("seconds", "took"))))
    row = row_from_header(project, "010", path)
    assert (row.samples, row.most_seconds, row.split, row.switches, row.keep) == (16, None, None, None, None)
