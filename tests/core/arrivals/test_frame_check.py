"""What is said of a frame's picture, in the file types that people have."""

import numpy as np
import pytest

from frame_files import ramp, write
from pemlo.core.arrivals.frame_check import check_frame, reads_to_its_end, settings_differ
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.timed_sizes import file_sizes

SIZE = (48, 32)


@pytest.mark.parametrize(("ending", "kind"), [("exr", "half"), ("exr", "float"), ("png", "uint8"), ("png", "uint16"),
                                              ("tif", "uint16"), ("jpg", "uint8")])  # fmt: skip
def test_a_sound_frame_is_sound_in_every_file_type(ending, kind, tmp_path):
    found = check_frame(write(tmp_path / f"a.{ending}", ramp(), kind), SIZE)
    assert (found.trouble, found.readable, found.width, found.height, found.channels) == ("", True, *SIZE, 3)
    assert found.brightness > 0
    assert found.digest != check_frame(write(tmp_path / f"b.{ending}", ramp(seed=1), kind), SIZE).digest


def test_brightness_and_noise_of_known_patches(tmp_path):
    pixels = np.full((64, 64, 3), 0.25, np.float32)
    pixels += 0.01 * np.random.default_rng(1).standard_normal(pixels.shape).astype(np.float32)
    found = check_frame(write(tmp_path / "a.exr", pixels), (64, 64))
    # Three channels of their own noise, weighed by ITU-R BT.709.
    deviation = 0.01 * np.sqrt(0.2126**2 + 0.7152**2 + 0.0722**2)
    assert found.brightness == pytest.approx(0.25, abs=0.001)
    assert found.noise == pytest.approx(deviation / 0.25, rel=0.1)


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda p: p[: SIZE[1] // 2, : SIZE[0] // 2], "is 24×16 px, and 48×32 are planned"),
        (lambda p: 0 * p, "is black all over"),
        (lambda p: 0 * p + 0.3, "is of one colour all over"),
        (lambda p: np.where(np.arange(p.size).reshape(p.shape) == 7, np.nan, p), "1 pixel hold no number"),
        (lambda p: np.where(p > 0.79, np.inf, p), "hold no number"),
    ],
)
def test_what_is_wrong_is_said(change, words, tmp_path):
    assert words in check_frame(write(tmp_path / "a.exr", change(ramp())), SIZE).trouble


@pytest.mark.parametrize("kept", [0.2, 0.6, 0.95])
@pytest.mark.parametrize("ending", ["exr", "png"])
def test_a_file_that_was_cut_off_cannot_be_read_to_its_last_row(kept, ending, tmp_path):
    path = write(tmp_path / f"a.{ending}", ramp((200, 120)), "half" if ending == "exr" else "uint8")
    with path.open("r+b") as file:
        file.truncate(int(path.stat().st_size * kept))
    found = check_frame(path, (200, 120))
    assert not found.readable
    assert found.trouble


def test_no_picture_at_all(tmp_path):
    for name, content in (("empty.exr", b""), ("words.exr", b"no picture"), ("x.png", b"\x89PNG\r\n\x1a\n")):
        (tmp_path / name).write_bytes(content)
        assert not check_frame(tmp_path / name, SIZE).readable


def test_headers_are_read_by_names_that_are_given(tmp_path):
    path = write(tmp_path / "a.exr", ramp(), my__time="4:02", my__host="desk", my__spp="64")
    found = check_frame(path, SIZE, {"seconds": "my:time", "machine": "my:host", "samples": "my:spp"})
    assert (found.said["seconds"], found.said["machine"], found.said["samples"]) == (242.0, "desk", 64)
    assert check_frame(path, SIZE).said == {}


def test_settings_other_than_planned_are_named():
    planned = ShotSettings(samples=256, denoise="frame", switches=("motion blur",))
    assert settings_differ({"samples": 256, "denoise": "frame", "switches": ("motion blur",)}, planned) == ""
    assert (
        settings_differ({"samples": 64, "denoise": "none"}, planned)
        == "samples 64, planned 256; denoise none, planned frame"
    )
    assert settings_differ({}, planned) == ""


def test_a_frame_rendered_larger_may_have_its_own_size_or_that_of_rendering(tmp_path):
    # Common practice, no source: 160 % inside, brought to the delivery's size before it is written.
    path = write(tmp_path / "a.exr", ramp())
    inside = (round(SIZE[0] * 1.6), round(SIZE[1] * 1.6))
    assert file_sizes(SIZE, 160) == (inside, SIZE)
    assert check_frame(path, inside, {}, SIZE).trouble == ""
    assert check_frame(path, SIZE, {}, SIZE).trouble == ""
    half = (SIZE[0] // 2, SIZE[1] // 2)
    assert file_sizes(SIZE, 50) == (half,), "smaller inside than what is delivered is another matter"
    assert "are planned" in check_frame(path, half, {}, half).trouble


@pytest.mark.parametrize("ending", ["exr", "png", "tif"])
def test_a_frame_that_is_half_written_does_not_read_to_its_end(tmp_path, ending):
    path = write(tmp_path / f"a.{ending}", ramp(), "half" if ending == "exr" else "uint16")
    assert reads_to_its_end(path)
    whole = path.read_bytes()
    for share in (0.0, 0.1, 0.5, 0.95):
        path.write_bytes(whole[: int(len(whole) * share)])
        assert not reads_to_its_end(path), share
    assert not reads_to_its_end(tmp_path / "none.exr")
    assert not reads_to_its_end(tmp_path)
