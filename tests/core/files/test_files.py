"""Headers of pictures, what they say of a trial, and small copies."""

import numpy as np
import OpenImageIO as oiio
import pytest

from pemlo.core.errors import FileError, InputError
from pemlo.core.files.header import Header, read_header
from pemlo.core.files.small import display_codes, read_for_display, write_small, write_small_of
from pemlo.core.persistence.trial_header import fields_of, is_ours, missing
from pemlo.core.project.trials import FIRST_RUN


def write(path, pixels, attributes=(), kind="half"):
    spec = oiio.ImageSpec(pixels.shape[1], pixels.shape[0], pixels.shape[2], kind)
    for name, value in dict(attributes).items():
        spec.attribute(name, value)
    out = oiio.ImageOutput.create(str(path))
    assert out.open(str(path), spec)
    assert out.write_image(np.ascontiguousarray(pixels, np.float32))
    assert out.close()
    return path


def header(attributes, name="shot_0041.exr"):
    from pathlib import Path

    return Header(Path(name), 64, 36, ("R", "G", "B"), attributes)


def test_a_header_is_read_as_it_was_written(tmp_path):
    path = write(tmp_path / "a.exr", np.zeros((4, 6, 3)), {"studio:time": "0:04:02", "studio:samples": 64, "x:t": 0.02})
    found = read_header(path)
    assert (found.width, found.height, found.channels) == (6, 4, ("R", "G", "B"))
    assert found.attributes["studio:time"] == "0:04:02"
    assert found.attributes["studio:samples"] == "64"
    assert float(found.attributes["x:t"]) == pytest.approx(0.02, rel=1e-6)


@pytest.mark.parametrize("content", [b"", b"no picture", b"\x76\x2f\x31\x01 cut off"])
def test_what_is_no_picture_is_said_to_be_none(tmp_path, content):
    (tmp_path / "a.exr").write_bytes(content)
    with pytest.raises(FileError, match=r"a\.exr cannot be read"):
        read_header(tmp_path / "a.exr")
    with pytest.raises(FileError, match=r"a\.exr cannot be read"):
        write_small_of(tmp_path / "a.exr", tmp_path / "b.jpg")


def test_names_that_the_user_gave_are_read_with_units():
    said = header({"t": "0:04:02", "spp": "64", "tau": "0.05", "host": "blade 3", "pre": "12.5"})
    names = {"seconds": "t", "samples": "spp", "noise_threshold": "tau", "machine": "host", "prepare_seconds": "pre"}
    assert fields_of(said, names) == {
        "seconds": 242.0, "samples": 64, "noise_threshold": 0.05, "machine": "blade 3", "prepare_seconds": 12.5,
        "frame": 41,
    }  # fmt: skip
    assert not missing(said, names)
    assert missing(said, {"seconds": "elsewhere"}) == ("seconds",)


def test_a_threshold_of_nothing_is_none():
    assert "noise_threshold" not in fields_of(
        header({"t": "9", "tau": "0"}), {"seconds": "t", "noise_threshold": "tau"}
    )


def test_what_cannot_be_read_names_the_attribute():
    with pytest.raises(InputError, match="spp") as error:
        fields_of(header({"t": "9", "spp": "many"}), {"seconds": "t", "samples": "spp"})
    assert "shot_0041.exr" in str(error.value)


def test_our_own_header_needs_no_names():
    ours = {
        "scene": "stairs", "frame": "7", "samples": "16", "min_samples": "16", "noise_threshold": "0.0",
        "seconds": "3.25", "trace_seconds": "3", "resolution_percent": "50.0", "denoise": "none", "seed": "5",
        "machine": "desk", "mean_samples": "16.0", "noise": "0.2", "noise_shape": "-1.5 -1.0 0.25", "first_run": "0",
        "region": "whole", "read_back": "light",
    }  # fmt: skip
    said = header({f"pemlo:{name}": value for name, value in ours.items()})
    found = fields_of(said, {})
    assert is_ours(said)
    assert found["noise_threshold"] is None
    assert found["min_samples"] is None
    assert (found["seconds"], found["frame"], found["keep"], found["noise_shape"]) == (
        3.25,
        7,
        ("light",),
        (-1.5, -1, 0.25),
    )
    assert found["left_out"] == ""
    first = header({**said.attributes, "pemlo:first_run": "1"})
    assert fields_of(first, {})["left_out"] == FIRST_RUN
    assert "region_percent" not in found
    part = {"pemlo:region": "0,0,160,90", "pemlo:full_width": "320", "pemlo:full_height": "180"}
    assert fields_of(header({**said.attributes, **part}), {})["region_percent"] == 25
    with pytest.raises(InputError, match="region"):
        fields_of(header({**said.attributes, "pemlo:region": "here"}), {})


def test_display_codes_follow_the_published_curve():
    # IEC 61966-2-1: 0.0031308 -> 0.04045, 0.5 -> 0.7354, and the ends.
    linear = np.array([0.0, 0.0031308, 0.5, 1.0, 7.0, -1.0])
    assert display_codes(linear).tolist() == [0, round(255 * 0.04045), round(255 * 0.7354), 255, 255, 0]


def test_small_copies_keep_shape_and_light(tmp_path):
    grey = np.full((90, 160, 3), 0.5, np.float32)
    write_small(np.repeat(np.repeat(grey, 5, 0), 5, 1), tmp_path / "big.png")
    linear = write(tmp_path / "a.exr", np.repeat(np.repeat(grey, 5, 0), 5, 1))
    write_small_of(linear, tmp_path / "from_exr.png")
    codes = write(tmp_path / "b.png", grey, kind="uint8")
    write_small_of(codes, tmp_path / "from_png.png")
    for name, size, code in (("big", (320, 180), 188), ("from_exr", (320, 180), 188), ("from_png", (160, 90), 128)):
        image = oiio.ImageBuf(str(tmp_path / f"{name}.png"))
        assert (image.spec().width, image.spec().height) == size
        assert np.asarray(image.get_pixels()) * 255 == pytest.approx(code, abs=1)


def test_a_picture_with_wrong_numbers_still_has_a_small_copy(tmp_path):
    pixels = np.full((4, 4, 3), np.nan, np.float32)
    pixels[0, 0] = np.inf
    write_small_of(write(tmp_path / "a.exr", pixels, kind="float"), tmp_path / "a.png")
    assert not np.asarray(oiio.ImageBuf(str(tmp_path / "a.png")).get_pixels()).any(), "black, as everywhere else"


def test_a_grey_picture_has_a_small_copy(tmp_path):
    write_small_of(write(tmp_path / "a.exr", np.full((4, 4, 1), 1.0)), tmp_path / "a.png")
    assert oiio.ImageBuf(str(tmp_path / "a.png")).spec().nchannels == 3


PATCHES = np.array([[0.8, 0.1, 0.05], [0.05, 0.6, 0.1], [0.02, 0.05, 0.9], [0.5, 0.5, 0.5]])


@pytest.mark.parametrize("kind", ["half", "float", "uint8", "uint16"])
@pytest.mark.parametrize("names", ["RGB", "RGBA", "ABGR", "RGBXY", "XYRGB"])
@pytest.mark.parametrize("width", [32, 64])
def test_known_patches_are_shown_in_their_colours(tmp_path, kind, names, width):
    """Files of every depth, channels in any order and beside others, shown whole and made smaller."""
    floating = kind in {"half", "float"}
    if not floating and names not in {"RGB", "RGBA"}:
        pytest.skip("such files tell colours by their order alone")
    path = tmp_path / ("a.exr" if floating else "a.tif")
    rows = np.repeat(np.repeat(PATCHES.reshape(2, 2, 3), 16, axis=0), 32, axis=1)
    values = {"R": rows[..., 0], "G": rows[..., 1], "B": rows[..., 2]}
    pixels = np.stack([values.get(name, np.full(rows.shape[:2], 0.3)) for name in names], axis=-1)
    spec = oiio.ImageSpec(64, 32, len(names), kind)
    spec.channelnames = tuple(names)
    if "X" in names:  # as renderers write them: colour in half the bits of what is measured with it
        spec.channelformats = tuple(oiio.TypeDesc("float" if name in "XY" else kind) for name in names)
    out = oiio.ImageOutput.create(str(path))
    assert out.open(str(path), spec)
    assert out.write_image(np.ascontiguousarray(pixels, np.float32))
    assert out.close()
    shown = read_for_display(path, width)
    expected = display_codes(PATCHES) if floating else np.round(255 * PATCHES).astype(np.uint8)
    height, across = shown.shape[:2]
    at = [shown[y, x] for y in (height // 4, 3 * height // 4) for x in (across // 4, 3 * across // 4)]
    assert np.abs(np.array(at).astype(int) - expected.astype(int)).max() <= 2
