"""The first frame of a launch held against the plan: with pictures that were really rendered."""

import re
from pathlib import Path

import numpy as np
import OpenImageIO as oiio
import pytest

from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.files.loading import load
from pemlo.core.files.picture_file import ReadOptions
from pemlo.core.preflight.check_context import plan_row
from pemlo.core.preflight.finding import FINE, UNKNOWN, WRONG
from pemlo.core.preflight.first_frame import FirstFrame, frame_to_render, shots_of_files
from pemlo.core.project.settings import FrameSettings
from pemlo.demo import DEMO_FILE, demo_project

FOLDER = DEMO_FILE.parent


@pytest.fixture(scope="module")
def known():
    project = demo_project()
    return project, fit(fit_input(project))


def picture(source, path, times=1.0, **attributes):
    """Copy the colour of a picture without what its header says, times a factor."""
    made = oiio.ImageBuf(np.ascontiguousarray(load(source, ReadOptions()).colour * np.array(times, np.float32)))
    for key, value in attributes.items():
        made.specmod().attribute(key, value)
    assert made.write(str(path), "half")
    return path


@pytest.fixture(scope="module")
def case(known):
    """A trial with noise, and the film in which its shot is planned as it was rendered."""
    project, made = known
    trial = next(
        one for one in project.trials_of("060")
        if (one.frame, one.denoise, one.samples, one.resolution_percent) == (66, "none", 16, 12.5) and one.switches
    )  # fmt: skip
    shot = project.shot("060")
    planned = shot.asked.replace(**FrameSettings.model_validate(trial.frame_fields()).frame_fields())
    with_plan = project.replace(
        shots=tuple(one.replace(plan=planned) if one.name == "060" else one for one in project.shots)
    )
    return FirstFrame(with_plan, made, FOLDER), FOLDER / trial.picture


def wrong(first, path):
    return [finding for finding in first.findings("060", path) if finding.outcome == WRONG]


def test_a_frame_as_planned(case, tmp_path):
    first, source = case
    found = first.findings("060", picture(source, tmp_path / "060.0066.exr"))
    assert {one.outcome for one in found} <= {FINE, UNKNOWN}
    assert [one.words for one in found if one.outcome == UNKNOWN] == ["What the first frame of 060 took is not known."]


def test_other_light_is_said_by_channel(case, tmp_path):
    first, source = case
    [found] = [
        one for one in wrong(first, picture(source, tmp_path / "060.0066.exr", (1.5, 1, 1))) if "colours" in one.words
    ]
    assert "+" in found.words.split("levels in red")[0]
    red, green, blue = (abs(int(n)) for n in re.findall(r"[+−](\d+)", found.words))
    assert red > 4 * max(green, blue)


def test_more_noise_than_planned_is_said(case, tmp_path):
    first, source = case
    project = first.project
    shot = project.shot("060")
    clean = project.replace(shots=tuple(
        one.replace(plan=shot.settings.replace(samples=shot.settings.samples * 64)) if one.name == "060" else one
        for one in project.shots))  # fmt: skip
    found = wrong(FirstFrame(clean, first.fit, FOLDER), picture(source, tmp_path / "060.0066.exr"))
    assert any("errs by" in one.words for one in found)


def test_another_frame_cannot_be_compared_and_says_which_could(case, tmp_path):
    first, source = case
    found = first.findings("060", picture(source, tmp_path / "060.0009.exr"))
    assert any("looks as approved is not known" in one.words and "Render frame" in one.todo for one in found)


def test_layers_squeezed_pixels_and_what_is_delivered(case, tmp_path):
    first, source = case
    project = first.project.replace(needs={"layers": ("depth",), "colour": "display"})
    path = picture(source, tmp_path / "060.0066.exr", PixelAspectRatio=2.0)
    said = " ".join(one.words for one in wrong(FirstFrame(project, first.fit, FOLDER), path))
    assert "lacks the layers depth" in said
    assert "2 times as wide" in said
    assert "holds light as it is" in said


def test_files_say_their_shots_in_their_names(known):
    project, _ = known
    paths = [
        Path(name) for name in ("a/060.0066.exr", "night_070_v2.0001.exr", "080/0001.exr", "0100.exr", "x/100-1.png")
    ]
    found, left = shots_of_files(project, paths)
    assert {shot: path.name for shot, path in found.items()} == {
        "060": "060.0066.exr", "070": "night_070_v2.0001.exr", "080": "0001.exr", "100": "100-1.png",
    }  # fmt: skip
    assert [path.name for path in left] == ["0100.exr"]


def test_the_frame_to_render_is_one_that_can_be_compared_with_the_launchs_settings(known):
    project, _ = known
    frame, settings = frame_to_render(project, "060")
    assert frame == 66
    assert settings.samples == project.shot("060").settings.samples
    row = plan_row(project, project.shot("060")).replace(samples=9, percent=50.0, denoise="none", threshold=0.0)
    frame, settings = frame_to_render(project.replace(launch=(row,)), "060")
    assert (settings.samples, settings.resolution_percent, settings.denoise) == (9, 50.0, "none")
    assert frame_to_render(project, "020")[0] == (1 + 96) // 2
