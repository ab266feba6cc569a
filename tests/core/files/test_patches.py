"""Known colour patches through every reader, in the kinds of files that people have."""

import numpy as np
import OpenImageIO as oiio
import pytest

from pemlo.core.errors import FileError
from pemlo.core.files import memory
from pemlo.core.files.header import read_header
from pemlo.core.files.loading import load
from pemlo.core.files.picture_file import PictureFile, ReadOptions
from pemlo.core.files.sequence import FARTHEST, sequence_of
from pemlo.core.files.small import read_for_display
from pemlo.core.pixels.curve import to_display, to_linear
from pemlo.core.pixels.source import read_whole

# Six patches of 8 px, display codes: as they stand in a file of codes, or their light in a file of light.
CODES = np.array([[255, 0, 0], [0, 255, 0], [0, 0, 255], [255, 255, 255], [119, 119, 119], [200, 120, 40]], np.float64)
LIGHT = to_linear((CODES / 255).astype(np.float32))
SIDE = 8


def patches(values):
    """Return a picture of two rows of three patches, (16, 24, C)."""
    return np.repeat(np.repeat(np.asarray(values).reshape(2, 3, -1), SIDE, axis=0), SIDE, axis=1).astype(np.float32)


def write(path, pixels, names, kind, **more):
    height, width, count = pixels.shape
    spec = oiio.ImageSpec(width, height, count, kind)
    spec.channelnames = names
    for name, value in more.items():
        setattr(spec, name, value)
    out = oiio.ImageOutput.create(str(path))
    assert out.open(str(path), spec)
    assert out.write_image(np.ascontiguousarray(pixels))
    out.close()
    return path


def seen(path, reading=None):
    """Return the patches' codes as every reader has them: rows, the viewer's picture, and the small copy."""
    reading = reading or ReadOptions()
    with PictureFile(path, reading) as file:
        rows = 255 * to_display(read_whole(file).colour)
    shown = 255 * to_display(load(path, reading).colour)
    found = [rows, shown]
    if reading == ReadOptions():
        found.append(read_for_display(path, 320).astype(float))
    return [picture[SIDE // 2 :: SIDE, SIDE // 2 :: SIDE].reshape(-1, 3) for picture in found]


def extra(name):
    """Return a channel that must not be taken for colour."""
    return {"A": 0.5, "Z": 900.0, "depth.Z": 12.5, "variance.R": 0.01}.get(name, 0.3)


ORDERS = [
    ("R", "G", "B"), ("B", "G", "R"), ("A", "B", "G", "R"), ("R", "G", "B", "A"), ("Z", "R", "G", "B"),
    ("albedo.B", "albedo.G", "albedo.R", "R", "G", "B", "A", "depth.Z", "variance.R", "variance.G", "variance.B"),
]  # fmt: skip


@pytest.mark.parametrize("names", ORDERS, ids=lambda names: "".join(n[-1] for n in names))
@pytest.mark.parametrize("kind", ["half", "float"])
@pytest.mark.parametrize("tile", [0, 16])
def test_files_of_light_in_any_order_of_channels(tmp_path, names, kind, tile):
    light = patches(LIGHT)
    columns = {"R": light[..., 0], "G": light[..., 1], "B": light[..., 2]}
    pixels = np.stack([columns.get(name, np.full(light.shape[:2], extra(name))) for name in names], axis=-1)
    path = write(tmp_path / "a.exr", pixels, names, kind, tile_width=tile, tile_height=tile)
    for codes in seen(path):
        assert codes == pytest.approx(CODES, abs=0.7)


@pytest.mark.parametrize(
    ("ending", "kind", "alpha"),
    [("png", "uint8", False), ("png", "uint8", True), ("png", "uint16", True), ("tif", "uint8", True),
     ("tif", "uint16", False), ("tif", "float", False), ("jpg", "uint8", False)],
)  # fmt: skip
def test_files_of_codes_with_alpha_and_without(tmp_path, ending, kind, alpha):
    values = patches(LIGHT) if kind == "float" else patches(CODES / 255)
    names = ("R", "G", "B", "A") if alpha else ("R", "G", "B")
    pixels = np.concatenate([values, np.ones((*values.shape[:2], 1), np.float32)], axis=-1) if alpha else values
    path = write(tmp_path / f"a.{ending}", pixels, names, kind)
    for codes in seen(path):
        assert codes == pytest.approx(CODES, abs=12 if ending == "jpg" else 1.01)


@pytest.mark.parametrize("tile", [0, 8])
def test_several_kinds_of_values_in_one_file(tmp_path, tile):
    light = patches(LIGHT)
    depth = np.full((*light.shape[:2], 1), 12.5)
    pixels, names = np.concatenate([light, depth], axis=-1).astype(np.float32), ("R", "G", "B", "depth.Z")
    path = write(tmp_path / "a.exr", pixels, names, "half", channelformats=("half", "half", "half", "float"),
                 tile_width=tile, tile_height=tile)  # fmt: skip
    for codes in seen(path):
        assert codes == pytest.approx(CODES, abs=0.7)
    with PictureFile(path, ReadOptions("depth")) as file:
        assert read_whole(file).colour == pytest.approx(12.5)


@pytest.mark.parametrize("tile", [0, 8])
def test_a_file_that_holds_only_part_of_its_frame(tmp_path, tile):
    """The frame is 24 × 16 px from 100, 50 on; the file has the four patches to the right of the first column."""
    part = patches(LIGHT)[:, SIDE:]
    path = write(tmp_path / "a.exr", part, ("R", "G", "B"), "half", x=108, y=50, full_x=100, full_y=50, full_width=24,
                 full_height=16, tile_width=tile, tile_height=tile)  # fmt: skip
    expected = CODES.copy()
    expected[[0, 3]] = 0
    for codes in seen(path):
        assert codes == pytest.approx(expected, abs=0.7)
    header = read_header(path)
    assert (header.width, header.height) == (24, 16)


@pytest.mark.parametrize("tile", [0, 8])
def test_a_file_that_holds_more_than_its_frame(tmp_path, tile):
    """Eight px more on each side, all of them white: they are not shown."""
    whole = np.pad(patches(LIGHT), ((8, 8), (8, 8), (0, 0)), constant_values=1.0)
    path = write(tmp_path / "a.exr", whole, ("R", "G", "B"), "half", x=-8, y=-8, full_x=0, full_y=0, full_width=24,
                 full_height=16, tile_width=tile, tile_height=tile)  # fmt: skip
    for codes in seen(path):
        assert codes == pytest.approx(CODES, abs=0.7)
    with PictureFile(path) as file:
        assert np.array_equal(file.rows(3, 11).colour, read_whole(file).colour[3:11])


def several(path, *parts):
    """Write a file of several parts: pixels, channel names, and the part's name, of each."""
    specs = []
    for pixels, names, name in parts:
        spec = oiio.ImageSpec(pixels.shape[1], pixels.shape[0], pixels.shape[2], "half")
        spec.channelnames = names
        spec.attribute("oiio:subimagename", name)
        specs.append(spec)
    out = oiio.ImageOutput.create(str(path))
    assert out.open(str(path), tuple(specs))
    for number, (pixels, _, _) in enumerate(parts):
        assert number == 0 or out.open(str(path), specs[number], "AppendSubimage")
        assert out.write_image(np.ascontiguousarray(pixels, np.float32))
    out.close()
    return path


def test_all_parts_of_a_file_are_read(tmp_path):
    light, other = patches(LIGHT), patches(LIGHT[::-1])
    path = several(
        tmp_path / "a.exr",
        (light, ("R", "G", "B"), "beauty"),
        (other, ("R", "G", "B"), "albedo"),
        (light[..., :1] * 0 + 3.0, ("depth.Z",), "depth"),
    )
    for codes in seen(path):
        assert codes == pytest.approx(CODES, abs=0.7)
    with PictureFile(path) as file:
        assert [layer.name for layer in file.layers] == ["", "albedo", "depth"]
        assert len(file.header.channels) == 7
    for codes in seen(path, ReadOptions("albedo")):
        assert codes == pytest.approx(CODES[::-1], abs=0.7)
    with PictureFile(path, ReadOptions("depth")) as file:
        assert read_whole(file).colour == pytest.approx(3.0)


def test_a_deep_picture_is_refused_and_not_read(tmp_path):
    path = tmp_path / "deep.exr"
    spec = oiio.ImageSpec(8, 4, 5, "float")
    spec.channelnames = ("R", "G", "B", "A", "Z")
    spec.deep = True
    data = oiio.DeepData()
    data.init(32, 5, tuple([oiio.TypeDesc("float")] * 5), spec.channelnames)
    for pixel in range(32):
        data.set_samples(pixel, pixel % 3)
    out = oiio.ImageOutput.create(str(path))
    assert out.open(str(path), spec)
    assert out.write_deep_image(data)
    out.close()
    for read in (
        PictureFile,
        read_header,
        lambda path: read_for_display(path, 32),
        lambda path: load(path, ReadOptions()),
    ):
        with pytest.raises(FileError, match=r"deep\.exr is a deep picture"):
            read(path)


def test_what_does_not_fit_into_memory_is_told_before(tmp_path, monkeypatch):
    path = write(tmp_path / "a.png", np.zeros((600, 800, 3), np.float32), ("R", "G", "B"), "uint8")
    monkeypatch.setattr(memory, "ASKED_FROM", 2**20)
    monkeypatch.setattr(memory, "free_bytes", lambda: 2**23)
    for read in (lambda: load(path, ReadOptions()), lambda: read_whole(PictureFile(path))):
        with pytest.raises(FileError, match=r"a\.png is 800×600 px: that takes 0\.0 GiB, and 0\.0 are free"):
            read()
    with PictureFile(path) as file:
        assert file.rows(0, 10).colour.shape == (10, 800, 3), "in strips it can be measured"


def test_memory_that_is_free_is_known():
    free = memory.free_bytes()
    assert free is None or 2**24 < free < 2**50
    memory.see_that_it_fits("a.png", (8, 8), 1000)


def test_numbers_that_lie_far_apart_are_no_sequence(tmp_path):
    for number in (1, 2, 4, 4_000_000_000):
        (tmp_path / f"a.{number:010d}.png").touch()
    run = sequence_of(tmp_path / "a.0000000002.png")
    assert list(run.paths) == [1, 2, 4]
    assert run.missing == (3,)
    assert list(sequence_of(tmp_path / "a.4000000000.png").paths) == [4_000_000_000]
    assert run.last - run.first <= 2 * FARTHEST
