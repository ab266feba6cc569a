"""Frames that were predicted, written as files."""

import numpy as np
import pytest

from exr import write_exr
from pemlo.core.appraisal.preview_files import write_preview
from pemlo.core.appraisal.shot_appearance import appearance_of
from pemlo.core.files.loading import load
from pemlo.core.files.picture_file import ReadOptions
from pemlo.core.pixels.display import Srgb
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.trials import Trial
from photographs import codes_of, gaussian, photograph

SIZE = (160, 104)
CLEAN = photograph("astronaut", SIZE)


@pytest.fixture
def appearance(tmp_path):
    """A shot of which a coarse and a clean picture are there, and four denoised frames in a row."""
    trials = []
    for samples in (16, 1024):
        write_exr(tmp_path / f"{samples}.exr", *gaussian(CLEAN, 40 / samples**0.5, samples))
        trials.append(Trial(shot="010", frame=4, samples=samples, seconds=9, picture=f"{samples}.exr"))
    for frame in range(1, 5):
        write_exr(tmp_path / f"run.{frame}.exr", np.roll(CLEAN, 3 * frame, axis=1))
        trials.append(Trial(shot="010", frame=frame, samples=4, seconds=9, denoise="soft", picture=f"run.{frame}.exr"))
    return appearance_of(trials, tmp_path, Srgb())


def colour(path):
    return load(path, ReadOptions()).colour


def test_the_whole_frame_errs_as_it_is_predicted_to(appearance, tmp_path):
    settings = ShotSettings(samples=64)
    path = write_preview(appearance, settings, 64.0, tmp_path)
    error = np.sqrt(np.mean((codes_of(colour(path)) - codes_of(colour(tmp_path / "1024.exr"))) ** 2))
    assert error == pytest.approx(appearance.error_model.predict(settings).total.middle, rel=0.1)


@pytest.mark.parametrize("between", ["hold", "blend"])
def test_frames_that_are_left_out_are_held_or_mixed(appearance, tmp_path, between):
    settings = ShotSettings(samples=4, denoise="soft", frame_step=2, between=between)
    first = write_preview(appearance, settings, 4.0, tmp_path)
    assert first.name == "predicted.0001.exr"
    shown = [colour(first.with_name(f"predicted.{frame:04d}.exr")) for frame in (1, 2, 3)]
    real = [colour(tmp_path / f"run.{frame}.exr") for frame in (1, 2, 3)]
    assert np.allclose(shown[0], real[0], atol=2e-3)
    assert np.allclose(shown[2], real[2], atol=2e-3)
    wanted = real[0] if between == "hold" else (real[0] + real[2]) / 2
    assert np.allclose(shown[1], wanted, atol=2e-3)
    # Of four frames the last is not between two that are rendered.
    assert not first.with_name("predicted.0004.exr").exists()


def test_without_a_picture_of_that_denoiser_there_is_none(appearance, tmp_path):
    assert write_preview(appearance, ShotSettings(samples=4, denoise="other"), 4.0, tmp_path) is None
