import numpy as np
import pytest
from scipy.ndimage import gaussian_filter

from exr import write_exr
from pemlo.core.appraisal.frame_appearance import TrialPicture, appraise_frame
from pemlo.core.pixels.display import Srgb
from pemlo.core.pixels.source import ArraySource, Resized, read_whole
from pemlo.core.project.settings import FrameSettings
from photographs import codes_of, gaussian, photograph

SIZE = (200, 136)
CLEAN = photograph("astronaut", SIZE)


def noisy(folder, samples, seed=1, *, variance=True, percent=100):
    clean = CLEAN
    if percent != 100:
        size = tuple(round(side * percent / 100) for side in SIZE)
        clean = read_whole(Resized(ArraySource(CLEAN), size)).colour
    colour, spread = gaussian(clean, 24 / samples**0.5, seed)
    path = write_exr(folder / f"n{samples}-{percent}.exr", colour, spread if variance else None)
    return TrialPicture(path, FrameSettings(samples=samples, resolution_percent=percent), samples)


def soft(folder, seed, second=None):
    colour = gaussian_filter(CLEAN, (1, 1, 0)) + 0.3 * (gaussian(CLEAN, 6, seed)[0] - CLEAN)
    path = write_exr(folder / f"d{seed}.exr", colour)
    twin = None if second is None else folder / f"d{second}.exr"
    return TrialPicture(path, FrameSettings(samples=16, denoise="frame"), 16, twin)


def test_a_frame_is_known_from_its_files(tmp_path):
    soft(tmp_path, 2)
    others = [noisy(tmp_path, 8), noisy(tmp_path, 32), soft(tmp_path, 1, second=2), noisy(tmp_path, 8, percent=50)]
    reference = noisy(tmp_path, 4096, 9)
    found = appraise_frame(reference, others, Srgb())
    assert len(found.errors) == 4
    # The curve goes through the cleanest trial but the reference, and predicts the other.
    told = [found.error_model.predict(other.settings).total.middle for other in others[:3]]
    measured = [error.total.middle for error in found.errors[:3]]
    assert told[1] == pytest.approx(measured[1], rel=0.001)
    assert told[0] == pytest.approx(measured[0], rel=0.05)
    assert told[2] == pytest.approx(measured[2], rel=0.05)
    law = found.error_model.laws["frame"]
    assert law.bias.at(16).middle == pytest.approx(found.errors[2].softening.middle, rel=0.01)
    assert found.errors[3].scaling == pytest.approx(found.error_model.scaling.at(50), rel=0.05)


def test_the_reference_itself_can_tell_how_noise_lies(tmp_path):
    found = appraise_frame(noisy(tmp_path, 256), [], Srgb())
    assert found.error_model.predict(FrameSettings(samples=16)).total.middle == pytest.approx(6.0, rel=0.25)
    assert found.error_model.laws == {}


def test_without_variance_errors_are_measured_and_nothing_is_predicted(tmp_path):
    found = appraise_frame(noisy(tmp_path, 256, variance=False), [noisy(tmp_path, 16, 3, variance=False)], Srgb())
    assert found.error_model is None
    assert found.errors[0].total.middle > 1


def test_a_large_picture_is_read_in_bands(tmp_path):
    tall = np.tile(photograph("astronaut", (256, 256)), (4, 1, 1))
    colour, variance = gaussian(tall, 6, 1)
    path = write_exr(tmp_path / "tall.exr", colour, variance)
    found = appraise_frame(TrialPicture(path, FrameSettings(samples=16), 16), [], Srgb())
    rows = found.error_model.noise.mean.shape[0]
    assert rows < len(tall)
    assert found.error_model.predict(FrameSettings(samples=16)).total.middle == pytest.approx(6.0, rel=0.25)


def test_what_a_split_and_a_switch_do_is_seen(tmp_path):
    def switched(name, level, clean, **changes):
        colour, spread = gaussian(clean, level, 5)
        path = write_exr(tmp_path / f"{name}.exr", colour, spread)
        return TrialPicture(path, FrameSettings(samples=16, **changes), 16)

    darker = CLEAN * np.float32(0.9)
    others = [
        noisy(tmp_path, 16),
        switched("split", 3, CLEAN, split=(4, 1, 1)),
        switched("blur", 6, darker, switches=("blur",)),
        switched("both", 3, darker, switches=("blur",), split=(4, 1, 1)),
    ]
    found = appraise_frame(noisy(tmp_path, 4096, 9), others, Srgb())
    effects = found.error_model.effects
    assert set(effects) == {"split 4,1,1", "blur"}
    # Half the noise of the other is a quarter of its variance.
    assert effects["split 4,1,1"].variance == pytest.approx(0.25, rel=0.1)
    assert effects["split 4,1,1"].bias.middle < 1.0
    apart = np.sqrt(np.mean((codes_of(darker) - codes_of(CLEAN)) ** 2))
    assert effects["blur"].bias.middle == pytest.approx(apart, rel=0.1)
    assert effects["blur"].variance == pytest.approx(1.0, rel=0.15)
    told = found.error_model.predict(FrameSettings(samples=16, switches=("blur",), split=(4, 1, 1))).total.middle
    assert told == pytest.approx(found.errors[3].total.middle, rel=0.1)


def test_how_much_a_denoiser_flickers_is_seen_on_two_seeds(tmp_path):
    """A filter that averages near pixels leaves the means of blocks nearly as they were; grain alone it takes away."""

    def denoised(seed, second=None):
        colour = gaussian_filter(gaussian(CLEAN, 6, seed)[0], (1.5, 1.5, 0))
        path = write_exr(tmp_path / f"f{seed}.exr", colour)
        twin = None if second is None else tmp_path / f"f{second}.exr"
        return TrialPicture(path, FrameSettings(samples=16, denoise="frame"), 16, twin)

    denoised(2)
    model = appraise_frame(noisy(tmp_path, 4096, 9), [noisy(tmp_path, 16), denoised(1, 2)], Srgb()).error_model
    assert model.flicker.source("frame") == "measured"
    share = model.flicker.shares["frame"].middle
    assert 0.6 < share < 1.1
    plain, soft_ = (model.predict(FrameSettings(samples=16, denoise=name)).flicker for name in ("none", "frame"))
    assert soft_.middle == pytest.approx(share * plain.middle)
    assert plain.middle == pytest.approx(6 / 8, rel=0.25)
