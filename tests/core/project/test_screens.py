"""Which size loses nothing where a film is watched, and what another rate does."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from film import make_project, make_shot
from pemlo.core.project.rates import rate_change
from pemlo.core.project.screens import SCREENS, Screen, custom, even_size, eye_width, fit_for, fit_words

HD, UHD = (1920, 1080), (3840, 2160)


@pytest.mark.parametrize(
    ("widths", "pixels"),
    [
        # 60 pixels a degree (20/20 vision: one minute of arc) over the angle of the picture, worked out by hand:
        # a picture one width away takes 2 atan(1/2) = 53.13 degrees.
        (1.0, 60 * 53.1301),
        (2.5, 60 * 22.6199),
        (5.0, 60 * 11.4212),
    ],
)
def test_what_an_eye_can_tell_apart(widths, pixels):
    assert eye_width(widths) == pytest.approx(pixels, rel=1e-4)


def test_a_size_for_phones_and_its_saving():
    phone = next(screen for screen in SCREENS if screen.name == "phone in the hand")
    found = fit_for(phone, UHD)
    # 2 atan(1/4.4) = 25.61 degrees: 1537 px; the next even size of that shape is 1568 × 882.
    assert found.limited_by == "eye"
    assert found.needed_width == pytest.approx(1536.8, abs=0.5)
    assert (found.size, found.keeps_shape) == ((1568, 882), True)
    assert found.pixels_share == pytest.approx((1568 / 3840) ** 2)
    assert "loses nothing" in fit_words(phone, found)


def test_a_screen_shows_no_more_than_it_has():
    found = fit_for(Screen("small", None, (640, 360)), HD)
    assert (found.size, found.limited_by, found.fills) == ((640, 360), "screen", pytest.approx(1))


def test_a_wide_film_on_an_upright_screen_covers_a_part_of_it():
    upright = next(screen for screen in SCREENS if "9:16" in screen.name)
    found = fit_for(upright, HD)
    assert found.size[0] <= 1080 * 1.05
    assert found.fills == pytest.approx((9 / 16) ** 2, rel=0.01)
    assert "covers 32%" in fit_words(upright, found)


def test_a_film_with_fewer_pixels_than_can_be_seen_needs_all_of_them():
    found = fit_for(Screen("near", 0.8), HD)
    assert (found.percent, found.size, found.limited_by) == (100.0, HD, "film")
    assert "needs the whole size" in fit_words(Screen("near", 0.8), found)


sizes = st.tuples(st.integers(16, 8192), st.integers(16, 8192))


@given(sizes, st.floats(0.05, 1.0))
def test_sizes_are_even_large_enough_and_of_the_films_shape(size, share):
    (width, height), keeps = even_size(size, share * size[0])
    if (width, height) == size:
        return
    assert width % 2 == 0
    assert height % 2 == 0
    assert width >= math.floor(min(share * size[0], size[0] - size[0] % 2))
    assert width <= size[0]
    if keeps:
        assert width * size[1] == height * size[0]
    elif size[1] * share > 8:
        assert abs(height - width * size[1] / size[0]) <= 1


@given(st.sampled_from(SCREENS), st.sampled_from(SCREENS), st.sampled_from([HD, UHD, (2048, 858)]))
def test_nearer_and_finer_never_needs_less(one, other, size):
    if one.pixels and other.pixels and one.widths <= other.widths and all(
        a >= b for a, b in zip(one.pixels, other.pixels, strict=True)
    ):  # fmt: skip
        assert fit_for(one, size).needed_width >= fit_for(other, size).needed_width - 1e-6


@pytest.mark.parametrize("text", ["", "wall", "0 widths", "1280", "500 widths"])
def test_what_is_no_screen_is_refused(text):
    with pytest.raises(ValueError, match=r"widths|screen"):
        custom(text)


def test_a_screen_of_ones_own():
    assert custom("2.5 widths").pixels is None
    assert fit_for(custom("1280x720"), HD).size == (1280, 720)


@pytest.mark.parametrize(("fps", "frames"), [(30, 125), (60, 250), (12, 50)])
def test_the_same_seconds_at_another_rate_take_frames_in_proportion(fps, frames):
    # Common practice, no source: 24 to 30 to 60 fps: frames, and hours, in proportion.
    found = rate_change(make_project(shots=(make_shot("010", 100),)), fps, "seconds")
    assert (found.frames_before, found.frames_after) == (100, frames)
    assert found.project.shots[0].frame_count == frames
    assert found.project.delivery.fps == fps
    assert found.seconds_after == pytest.approx(found.seconds_before, rel=0.01)


def test_the_same_frames_at_another_rate_take_the_same_hours():
    found = rate_change(make_project(shots=(make_shot("010", 120),)), 30, "frames")
    assert found.project.shots[0].frame_count == 120
    assert found.seconds_after == pytest.approx(4)
    assert "so do the hours" in found.words


def test_slow_motion_is_rendered_fast_and_shown_slowly():
    project = make_project(shots=(make_shot("010", 48), make_shot("020", 24)))
    found = rate_change(project, 60, "slow motion", ["010"])
    assert found.project.shot("010").frame_count == 120
    assert found.project.delivery.fps == 24
    assert found.project.rate_of(found.project.shot("010")) == 24
    assert (found.seconds_before, found.seconds_after) == (pytest.approx(2), pytest.approx(5))
    assert found.project.shot("020") == project.shot("020")
    assert "150% more frames and hours" in found.words


def test_some_shots_get_a_rate_of_their_own():
    found = rate_change(make_project(), 48, "seconds", ["010"])
    assert found.project.delivery.fps == 24
    assert found.project.rate_of(found.project.shot("010")) == 48
