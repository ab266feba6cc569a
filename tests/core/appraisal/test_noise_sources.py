import numpy as np
import pytest

from exr import write_exr
from pemlo.core.appraisal.noise_sources import sources_of
from pemlo.core.pixels.display import Srgb

WIDE, HIGH = 64, 32


def flat(value):
    return np.full((HIGH, WIDE), value, np.float32)


def left_and_right(left, right):
    both = flat(left)
    both[:, WIDE // 2 :] = right
    return both


@pytest.fixture
def picture(tmp_path):
    """Shadow makes the noise of the left half, gloss that of the right; a tenth comes from neither."""
    shadow, gloss = left_and_right(0.009, 0.001), left_and_right(0.0, 0.008)
    whole = shadow + gloss + 0.001
    colour = np.repeat(flat(0.2)[..., None], 3, axis=2)
    layers = (("shadow", flat(0.1), shadow), ("gloss", left_and_right(0.0, 0.1), gloss))
    return write_exr(tmp_path / "a.exr", colour, np.repeat(whole[..., None], 3, axis=2), layers)


def test_each_source_has_its_share_and_its_place(picture):
    found = sources_of(picture, Srgb())
    total = found.rest + sum(source.variance for source in found.sources.values())
    assert found.rest / total == pytest.approx(0.1, abs=0.01)
    assert found.sources["shadow"].variance / total == pytest.approx(0.5, abs=0.01)
    assert (found.sources["shadow"].share, found.sources["gloss"].share) == (1.0, 0.5)
    assert found.map.at(3, 3) == ("shadow", pytest.approx(0.9, abs=0.01))
    assert found.map.at(WIDE - 1, HIGH - 1) == ("gloss", pytest.approx(0.8, abs=0.01))


def test_a_region_is_told_by_itself(picture):
    found = sources_of(picture, Srgb(), region=(WIDE // 2, 0, WIDE, HIGH))
    assert max(found.sources, key=lambda name: found.sources[name].variance) == "gloss"
    assert set(np.unique(found.map.most)) == {list(found.map.names).index("gloss")}


def test_two_seeds_stand_in_for_variances(tmp_path):
    dice = np.random.default_rng(5)
    paths = []
    for name in "ab":
        grain = 0.03 * dice.standard_normal((HIGH, WIDE)).astype(np.float32)
        light = left_and_right(0.1, 0.0) + np.where(left_and_right(1, 0) > 0, grain, 0)
        colour = np.repeat((0.1 + light)[..., None], 3, axis=2)
        # Without a variance of the layer, nor of the whole.
        paths.append(write_exr(tmp_path / f"{name}.exr", colour, None, (("shadow", light, flat(0.0)),)))
    found = sources_of(paths[0], Srgb(), paths[1])
    assert found.sources["shadow"].variance > 50 * found.rest
    assert found.map.at(2, 2)[0] == "shadow"


def test_a_picture_without_layers_tells_nothing(tmp_path):
    plain = write_exr(tmp_path / "a.exr", np.zeros((8, 8, 3)), np.zeros((8, 8, 3)))
    assert sources_of(plain, Srgb()) is None
