import json

import numpy as np
import OpenImageIO as oiio
import pytest

from command import pemlo
from pemlo.cli.main import main
from photographs import gaussian, photograph


@pytest.fixture(scope="module")
def folder(tmp_path_factory):
    folder = tmp_path_factory.mktemp("pictures")
    clean = photograph("astronaut", (160, 120))
    for name, level, seed in (("a", 4.0, 1), ("b", 4.0, 2), ("r", 0.5, 3)):
        write(folder / f"{name}.exr", *gaussian(clean, level, seed))
    write(folder / "half.exr", *gaussian(clean[:60], 4.0, 1))
    (folder / "text.exr").write_text("not a picture")
    return folder


def write(path, colour, variance):
    spec = oiio.ImageSpec(colour.shape[1], colour.shape[0], 6, "float")
    spec.channelnames = ("R", "G", "B", "variance.R", "variance.G", "variance.B")
    out = oiio.ImageOutput.create(str(path))
    assert out.open(str(path), spec)
    assert out.write_image(np.concatenate([colour, variance], axis=2).astype(np.float32))
    out.close()


def test_measuring_from_a_script(folder):
    run = pemlo("measure", "a.exr", "b.exr", "--reference", "r.exr", "--json", cwd=folder)
    assert run.returncode == 0, run.stderr
    found = json.loads(run.stdout)
    assert found["pixels"] == 160 * 120
    assert 3 < found["grain"]["mean"] < 6
    assert found["grain"]["mean"] < found["grain"]["worst"]
    left, top, right, bottom = found["grain"]["worst_region"]
    assert 0 <= left < right <= 160
    assert 0 <= top < bottom <= 120
    assert found["error"]["total"] == pytest.approx(found["error"]["grain"], rel=0.05)
    assert found["error"]["softening"] < 1
    assert 0 < found["flip"] < 1
    assert 0 < found["ssim"] < 1
    assert 20 < found["psnr"] < 60
    assert found["fireflies"] < 20
    assert found["grain_linear"] > 0


def told(capsys, *arguments):
    code = main([str(part) for part in arguments])
    return code, capsys.readouterr()


def test_noise_by_source_is_told_where_the_picture_tells_it(tmp_path, capsys):
    render = ["render", "--scene", "strike", "--frame", "86", "--size", "64x36", "--samples", "8", "--threads", "1"]
    assert main([*render, "--by-source", "-o", str(tmp_path / "a.exr")]) == 0
    capsys.readouterr()
    shares = json.loads(told(capsys, "measure", tmp_path / "a.exr", "--json")[1].out)["noise_from"]
    assert set(shares) > {"shadow", "rest"}
    assert sum(shares.values()) == pytest.approx(1)
    assert "noise from" in told(capsys, "measure", tmp_path / "a.exr")[1].out


def test_without_a_reference_the_error_is_null(folder, capsys):
    code, out = told(capsys, "measure", folder / "a.exr", "--json")
    found = json.loads(out.out)
    assert code == 0
    assert found["error"] is None
    assert found["noise_from"] is None
    assert found["flip"] is None
    assert found["grain"]["from"] == "variance channel"


def test_words_say_what_is_missing(folder, capsys):
    _, out = told(capsys, "measure", folder / "a.exr", "--reference", folder / "r.exr", "--denoised")
    assert "another seed" in out.out
    _, out = told(capsys, "measure", folder / "a.exr", "--reference", folder / "r.exr", "--seen-at", "cinema seat")
    assert "none that can be measured" in out.out
    assert "px a degree" in out.out


def test_seen_from_afar_grain_is_less(folder, capsys):
    near, far = (
        json.loads(
            told(capsys, "measure", folder / "a.exr", folder / "b.exr", "--seen-at", ppd, "--as-seen", "--json")[1].out
        )
        for ppd in ("40", "240")
    )
    assert near["size"] == [160, 120]
    assert far["size"] == [40, 30]
    assert far["grain"]["mean"] < 0.4 * near["grain"]["mean"]


def test_a_region_has_its_own_numbers(folder, capsys):
    _, out = told(capsys, "measure", folder / "a.exr", "--region", "10,20,74,84", "--json")
    assert json.loads(out.out)["pixels"] == 64 * 64


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["none.exr"], "no picture"),
        (["text.exr"], "text.exr"),
        (["a.exr", "half.exr"], "do not show the same frame"),
        (["a.exr", "--reference", "half.exr"], "do not show the same frame"),
        (["a.exr", "--region", "1,2,3"], "four whole numbers"),
        (["a.exr", "--region", "10,10,900,900"], "not inside"),
        (["a.exr", "--seen-at", "the moon"], "no seat"),
        (["a.exr", "--layer", "specular"], "no layer"),
        (["a.exr", "--view", "none.ocio", "screen", "plain"], "colour configuration"),
    ],
)
def test_wrong_input_is_told(folder, capsys, monkeypatch, arguments, words):
    monkeypatch.chdir(folder)
    code, out = told(capsys, "measure", *arguments)
    assert code == 2
    assert words in out.err


def test_the_same_picture_is_no_other_seed(folder, tmp_path):
    (tmp_path / "copy.exr").write_bytes((folder / "a.exr").read_bytes())
    for second in ("a.exr", tmp_path / "copy.exr"):
        run = pemlo("measure", "a.exr", second, cwd=folder)
        assert run.returncode == 2
        assert "is the same picture as a.exr" in run.stderr
    run = pemlo("measure", "a.exr", "--reference", "r.exr", "--reference-second", "r.exr", cwd=folder)
    assert run.returncode == 2
    assert "is the same picture as r.exr" in run.stderr


def test_two_pictures_of_one_seed_tell_nothing_of_noise(tmp_path):
    clean = photograph("astronaut", (32, 24))
    for name, seed in (("a", "7"), ("b", "7"), ("c", "8")):
        colour, _ = gaussian(clean, 4.0, ord(name))
        spec = oiio.ImageSpec(32, 24, 3, "float")
        spec.attribute("pemlo:seed", seed)
        out = oiio.ImageOutput.create(str(tmp_path / f"{name}.exr"))
        assert out.open(str(tmp_path / f"{name}.exr"), spec)
        assert out.write_image(colour.astype(np.float32))
        out.close()
    same = pemlo("measure", "a.exr", "b.exr", cwd=tmp_path)
    assert (same.returncode, "b.exr was rendered with the same seed as a.exr (7)" in same.stderr) == (2, True)
    assert pemlo("measure", "a.exr", "c.exr", cwd=tmp_path).returncode == 0
