from pathlib import Path

import numpy as np
import PyOpenColorIO as ocio
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import integrate, stats

from pemlo.core.errors import FileError, InputError
from pemlo.core.pixels.curve import to_display, to_linear
from pemlo.core.pixels.display import Srgb, View, check_view, views_of
from pemlo.core.pixels.luma import LUMA


def test_points_of_the_standard():
    """IEC 61966-2-1: the end of the straight piece, and middle light."""
    assert to_display(np.array([0.0031308])) == pytest.approx(0.04045, abs=1e-5)
    assert to_display(np.array([0.5])) == pytest.approx(0.7354, abs=1e-4)
    assert LUMA == (0.2126, 0.7152, 0.0722)  # ITU-R BT.709


@given(st.floats(0, 1))
def test_the_curve_goes_back(value):
    assert to_linear(to_display(np.array([value])))[0] == pytest.approx(value, abs=1e-6)


def test_the_table_is_the_curve():
    linear = np.linspace(-0.5, 1.5, 300_003, dtype=np.float32).reshape(-1, 3)
    assert np.abs(Srgb().codes(linear) - 255 * to_display(linear.astype(float))).max() < 0.005


def test_exposure_is_in_stops():
    linear = np.array([[0.1, 0.2, 0.3]], np.float32)
    assert np.allclose(Srgb(1.0).codes(linear), Srgb().codes(2 * linear), atol=1e-4)


@pytest.mark.parametrize(("mean", "sd"), [(0.2, 0.002), (0.2, 0.05), (0.01, 0.004), (0.6, 0.1)])
def test_spread_equals_quadrature_by_scipy(mean, sd):
    def moment(power):
        return integrate.quad(
            lambda x: float(255 * to_display(np.array([x]))[0]) ** power * stats.norm.pdf(x, mean, sd),
            mean - 8 * sd, mean + 8 * sd, points=[0.0, 0.0031308, 1.0], limit=400,
        )[0]  # fmt: skip

    first, second = moment(1), moment(2)
    square, shift = Srgb().spread(np.full((1, 3), mean, np.float32), np.full((1, 3), sd**2, np.float32))
    assert np.sqrt(square[0, 0]) == pytest.approx(np.sqrt(second - first**2), rel=0.03)
    assert shift[0, 0] == pytest.approx(first - 255 * to_display(np.array([mean]))[0], abs=0.05 + 0.03 * sd * 255)


@pytest.fixture
def configuration(tmp_path) -> Path:
    """A colour configuration of our own: light, and a screen that shows its square root."""
    config = ocio.Config()
    config.addColorSpace(ocio.ColorSpace(name="light"))
    root = ocio.ExponentTransform([2.0, 2.0, 2.0, 1.0], direction=ocio.TRANSFORM_DIR_INVERSE)
    config.addColorSpace(ocio.ColorSpace(name="root", fromReference=root))
    config.setRole(ocio.ROLE_SCENE_LINEAR, "light")
    config.addDisplayView("screen", "plain", "root")
    path = tmp_path / "our.ocio"
    path.write_text(config.serialize())
    return path


def test_a_view_of_a_configuration(configuration):
    assert views_of(configuration) == (("screen", "plain"),)
    view = View(str(configuration), "screen", "plain")
    linear = np.array([[0.25, 0.04, 4.0]], np.float32)
    assert np.allclose(view.codes(linear), [[127.5, 51.0, 255.0]], atol=0.02)
    mean, sd = np.full((1, 3), 0.25, np.float32), 0.01
    square, shift = view.spread(mean, np.full((1, 3), sd**2, np.float32))
    assert np.sqrt(square[0, 0]) == pytest.approx(255 * sd, rel=0.01)  # the root's slope at a quarter is 1
    assert -0.1 < shift[0, 0] < 0


def test_wrong_views_are_told(configuration, tmp_path):
    with pytest.raises(InputError, match="not there"):
        check_view(View(str(configuration), "screen", "other"))
    bad = tmp_path / "bad.ocio"
    bad.write_text("no configuration")
    with pytest.raises(FileError, match="cannot be read"):
        views_of(bad)
