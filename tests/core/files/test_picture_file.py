import numpy as np
import OpenImageIO as oiio
import pytest

from pemlo.core.errors import FileError, InputError
from pemlo.core.files.layers import layers_of
from pemlo.core.files.picture_file import PictureFile, ReadOptions
from pemlo.core.files.sequence import sequence_of
from pemlo.core.measure.frame import MeasureRequest, measure
from pemlo.core.pixels.curve import to_linear
from pemlo.core.pixels.source import read_whole

PIXELS = np.random.default_rng(1).random((37, 53, 3)).astype(np.float32)


def write(path, pixels, names=None, kind="float", tile=0, **attributes):
    height, width, count = pixels.shape
    spec = oiio.ImageSpec(width, height, count, kind)
    if names:
        spec.channelnames = names
    if tile:
        spec.tile_width = spec.tile_height = tile
    for name, value in attributes.items():
        spec.attribute(name, value)
    out = oiio.ImageOutput.create(str(path))
    assert out.open(str(path), spec)
    if tile:
        assert out.write_image(pixels)
    else:
        assert out.write_image(np.ascontiguousarray(pixels))
    out.close()
    return path


@pytest.mark.parametrize(
    ("ending", "kind", "step"),
    [("exr", "float", 0), ("exr", "half", 1e-3), ("png", "uint8", 1 / 250), ("png", "uint16", 1 / 60000), ("tif", "uint16", 1 / 60000), ("jpg", "uint8", 0.5)],
)  # fmt: skip
def test_kinds_of_files(tmp_path, ending, kind, step):
    with PictureFile(write(tmp_path / f"a.{ending}", PIXELS, kind=kind)) as picture:
        assert picture.size == (53, 37)
        assert picture.scene_linear == (ending == "exr")
        wanted = PIXELS if ending == "exr" else to_linear(PIXELS)
        assert np.allclose(read_whole(picture).colour, wanted, atol=2.3 * step + 1e-7)
        assert np.array_equal(picture.rows(5, 9).colour, read_whole(picture).colour[5:9])


def test_it_can_be_said_otherwise(tmp_path):
    path = write(tmp_path / "a.tif", PIXELS, kind="uint16")
    with PictureFile(path, ReadOptions(scene_linear=True)) as picture:
        assert np.allclose(read_whole(picture).colour, PIXELS, atol=1e-4)
    path = write(tmp_path / "b.exr", PIXELS)
    with PictureFile(path, ReadOptions(scene_linear=False)) as picture:
        assert np.allclose(read_whole(picture).colour, to_linear(PIXELS), atol=1e-6)


def test_tiles_and_rows_are_the_same_picture(tmp_path):
    with PictureFile(write(tmp_path / "a.exr", PIXELS, tile=16)) as picture:
        for first, end in ((0, 37), (3, 5), (15, 17), (30, 37)):
            assert np.array_equal(picture.rows(first, end).colour, PIXELS[first:end])


def test_layers_of_a_file(tmp_path):
    names = (
        "R",
        "G",
        "B",
        "A",
        "albedo.R",
        "albedo.G",
        "albedo.B",
        "depth.Z",
        "variance.R",
        "variance.G",
        "variance.B",
    )
    pixels = np.random.default_rng(0).random((8, 9, len(names))).astype(np.float32)
    path = write(tmp_path / "a.exr", pixels, names)
    with PictureFile(path) as picture:
        assert [layer.name for layer in picture.layers] == ["", "albedo", "depth", "variance"]
        rows = read_whole(picture)
        assert np.array_equal(rows.colour, pixels[..., :3])
        assert np.array_equal(rows.variance, pixels[..., 8:])
    with PictureFile(path, ReadOptions("depth")) as depth:
        assert depth.layer.single
        assert np.array_equal(read_whole(depth).colour[..., 0], pixels[..., 7])
        assert not depth.has_variance
    with pytest.raises(InputError, match="albedo"):
        PictureFile(path, ReadOptions("specular"))


def test_grey_and_odd_channels():
    assert [layer.name for layer in layers_of(("Y",))] == [""]
    assert [layer.name for layer in layers_of(("R", "G", "B", "Z"))] == ["", "Z"]
    assert [layer.name for layer in layers_of(("A",))] == []


def test_values_that_are_no_numbers_are_marked(tmp_path):
    pixels = PIXELS.copy()
    pixels[3, 4, 1] = np.nan
    pixels[5, 6, 0] = np.inf
    with PictureFile(write(tmp_path / "a.exr", pixels)) as picture:
        rows = read_whole(picture)
    assert np.isfinite(rows.colour).all()
    assert np.argwhere(rows.bad).tolist() == [[3, 4], [5, 6]]


@pytest.mark.parametrize("ending", ["exr", "png", "tif"])
@pytest.mark.parametrize("kept", [0, 3, 100, 0.5, 0.9])
def test_files_that_were_cut_off_are_told(tmp_path, ending, kept):
    path = write(tmp_path / f"a.{ending}", PIXELS, kind="float" if ending == "exr" else "uint8")
    data = path.read_bytes()
    path.write_bytes(data[: int(kept * len(data)) if kept < 1 else kept])
    with pytest.raises(FileError) as told, PictureFile(path) as picture:
        measure(MeasureRequest(picture))
    assert path.name in told.value.message


def test_files_that_are_no_pictures_are_told(tmp_path):
    path = tmp_path / "notes.exr"
    path.write_text("shot 010 looks fine to me\n" * 40)
    with pytest.raises(FileError, match=r"notes\.exr"):
        PictureFile(path)
    with pytest.raises(FileError, match="no picture"):
        PictureFile(tmp_path / "none.exr")
    with pytest.raises(FileError):
        PictureFile(tmp_path)


@pytest.mark.parametrize("damaged", [b"floa\xec", b"\xff\xfe\xfd\xfc\xfb"])
def test_a_header_with_bytes_that_are_no_text_does_not_stop_it(tmp_path, damaged):
    """The library passes over the type that it does not know, but quotes it, whose bytes are no UTF-8."""
    path = write(tmp_path / "a.exr", PIXELS)
    path.write_bytes(path.read_bytes().replace(b"pixelAspectRatio\0float", b"pixelAspectRatio\0" + damaged, 1))
    with PictureFile(path) as picture:
        assert read_whole(picture).colour == pytest.approx(PIXELS, rel=1e-3)


def test_a_header_of_absurd_size_is_refused_before_memory_is_taken(tmp_path):
    """A PNG whose header says 2 000 000 000 × 2 000 000 000, with a checksum that fits (PNG, ISO/IEC 15948)."""
    import struct
    import zlib

    def chunk(name, body):
        return struct.pack(">I", len(body)) + name + body + struct.pack(">I", zlib.crc32(name + body))

    for side in (2_000_000_000, 900_000):
        path = tmp_path / f"{side}.png"
        header = struct.pack(">IIBBBBB", side, side, 8, 2, 0, 0, 0)
        path.write_bytes(b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", header) + chunk(b"IDAT", b"") + chunk(b"IEND", b""))
        with pytest.raises(FileError):
            PictureFile(path)


def test_sequences(tmp_path):
    for number in (1, 2, 3, 6):
        write(tmp_path / f"shot.{number:04d}.exr", PIXELS)
    write(tmp_path / "other.0004.exr", PIXELS)
    write(tmp_path / "still.exr", PIXELS)
    found = sequence_of(tmp_path / "shot.0002.exr")
    assert list(found.paths) == [1, 2, 3, 6]
    assert found.missing == (4, 5)
    assert found.nearest(5) == 3
    assert found.nearest(-4) == 1
    assert list(sequence_of(tmp_path / "still.exr").paths.values()) == [tmp_path / "still.exr"]
