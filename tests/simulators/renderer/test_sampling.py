"""Noise, seeds, threads and topping up: what the forecast of a frame rests on."""

import dataclasses

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pemlo_simulators.renderer.adaptive import next_samples, single_sample_noise
from pemlo_simulators.renderer.dice import rolls
from pemlo_simulators.renderer.film import blank_film, develop, new_film
from pemlo_simulators.renderer.render import render
from pemlo_simulators.renderer.scenes import find_scene
from pemlo_simulators.renderer.settings import RenderSettings
from small_scenes import PLAIN, round_room, shoot

SMALL = RenderSettings("clock", frame=40, width=48, height=27, samples=16)


def colours(settings, **more):
    return render(find_scene(settings.scene), settings, **more).picture.colour


def test_dice_are_even_and_know_nothing_of_each_other():
    streams = np.array([rolls(3, stream, 5, 50) for stream in range(4000)])
    assert streams.mean() == pytest.approx(0.5, abs=0.003)
    assert streams.var() == pytest.approx(1 / 12, rel=0.01)
    between = np.corrcoef(streams[:-1, 0], streams[1:, 0])[0, 1], np.corrcoef(streams[:, 0], streams[:, 1])[0, 1]
    assert max(map(abs, between)) < 0.06
    counts, _ = np.histogram(streams, 64, (0, 1))
    assert ((counts - counts.mean()) ** 2 / counts.mean()).sum() < 110  # chi squared, 63 degrees: 1 in 4000


def test_variance_falls_as_one_over_the_samples():
    counts = np.array([4, 16, 64, 256, 1024])
    scene, rules = round_room(0.6), PLAIN._replace(bounces=3)
    variances = []
    for n in counts:
        a, b = (develop(shoot(scene, int(n), (40, 30), rules, seed)).colour.astype(float) for seed in (1, 2))
        variances.append(((a - b) ** 2).mean() / 2)
    slope = np.polyfit(np.log(counts), np.log(variances), 1)[0]
    assert slope == pytest.approx(-1, abs=0.05)


def test_many_cheap_renders_have_the_mean_of_one_dear_one():
    cheap = np.array([colours(dataclasses.replace(SMALL, samples=2, seed=seed)) for seed in range(32)], float)
    expensive = render(find_scene("clock"), dataclasses.replace(SMALL, samples=512, seed=99)).picture
    error = np.sqrt(cheap.var(axis=0).sum(axis=(0, 1)) / 32 + expensive.variance.astype(float).sum(axis=(0, 1)))
    off = (cheap.mean(axis=0) - expensive.colour).sum(axis=(0, 1))
    assert (np.abs(off) < 4 * error).all()


def test_the_variance_channel_says_what_two_seeds_say():
    seen = [render(find_scene("clock"), dataclasses.replace(SMALL, samples=64, seed=seed)).picture for seed in range(8)]
    between = np.var([picture.colour.astype(float) for picture in seen], axis=0, ddof=1).mean()
    assert np.mean([picture.variance.mean() for picture in seen]) == pytest.approx(between, rel=0.1)


@pytest.mark.parametrize("name", ["clock", "wheels", "lamp-glass", "harbour"])
def test_topping_up_equals_a_fresh_frame_bit_for_bit(name):
    settings = dataclasses.replace(SMALL, scene=name, samples=24)
    film = render(find_scene(name), settings).film
    topped = render(find_scene(name), dataclasses.replace(settings, samples=48), film=film)
    fresh = render(find_scene(name), dataclasses.replace(settings, samples=48))
    assert topped.film.light.tobytes() == fresh.film.light.tobytes()
    assert topped.film.guide.tobytes() == fresh.film.guide.tobytes()


def test_threads_and_regions_change_nothing():
    one = colours(dataclasses.replace(SMALL, threads=1))
    assert np.array_equal(colours(dataclasses.replace(SMALL, threads=3)), one)
    part = colours(dataclasses.replace(SMALL, region=(10, 5, 30, 20)))
    assert np.array_equal(part, one[5:20, 10:30])


def test_another_seed_and_another_frame_have_other_noise():
    one = colours(SMALL)
    assert not np.array_equal(colours(dataclasses.replace(SMALL, seed=1)), one)
    assert not np.array_equal(colours(dataclasses.replace(SMALL, frame=41)), one)


def test_resolution_percent_is_of_each_side():
    assert colours(dataclasses.replace(SMALL, resolution_percent=50, samples=1)).shape == (14, 24, 3)


def test_a_lower_threshold_takes_more_samples_and_leaves_less_noise():
    spent, left = [], []
    for threshold in (0.08, 0.04, 0.02):
        done = render(
            find_scene("clock"), dataclasses.replace(SMALL, noise_threshold=threshold, samples=2000, min_samples=8)
        )
        assert 8 <= done.film.taken.min() <= done.film.taken.max() <= 2000
        spent.append(done.mean_samples)
        left.append((single_sample_noise(done.film) / np.sqrt(done.film.taken)).max() / threshold)
    assert spent[0] * 2 < spent[1] < spent[2] / 2
    assert max(left) <= 1.2  # a pixel that was clean enough may look less so when its neighbours go on


def test_adaptive_sampling_stops_at_the_most():
    done = render(find_scene("clock"), dataclasses.replace(SMALL, noise_threshold=1e-4, samples=12, min_samples=4))
    assert (done.film.taken == 12).all()


@given(st.integers(1, 12), st.integers(13, 60), st.integers(1, 9))
def test_no_pixel_gets_less_than_the_least_or_more_than_the_most(least, most, step):
    film = new_film(6, 7)
    random = np.random.default_rng(least * most)
    for _ in range(100):
        pixels, wanted = next_samples(film, 0.1, least, most, step)
        if not len(pixels):
            break
        assert (wanted > film.taken.ravel()[pixels]).all()
        assert (wanted - film.taken.ravel()[pixels] <= step).all()
        for pixel, count in zip(pixels, wanted, strict=True):
            new = random.exponential(1.0, (count - film.taken.flat[pixel], 3))
            film.light.reshape(-1, 6)[pixel] += np.concatenate([new.sum(0), (new**2).sum(0)])
        film.taken.flat[pixels] = wanted
    assert film.taken.min() >= least
    assert film.taken.max() <= most


def test_it_stops_by_time():
    done = render(find_scene("clock"), dataclasses.replace(SMALL, samples=1_000_000, seconds=0.3))
    assert 1 <= done.mean_samples < 1_000_000


def test_a_split_asks_for_more_rays_and_leaves_less_noise():
    from pemlo_simulators.renderer.settings import Split

    plain = render(find_scene("wheels"), dataclasses.replace(SMALL, scene="wheels")).picture.variance.mean()
    split = render(find_scene("wheels"), dataclasses.replace(SMALL, scene="wheels", split=Split(4, 4, 4))).picture
    assert split.variance.mean() < 0.7 * plain


def test_a_film_without_samples_is_black():
    picture = develop(blank_film(SMALL))
    assert picture.colour.shape == (27, 48, 3)
    assert not picture.colour.any()


def test_light_told_apart_by_source_changes_nothing_and_adds_up():
    scene = find_scene("lamp-glass")
    plain = render(scene, RenderSettings("lamp-glass", 41, 64, 36, samples=4, threads=1))
    told = render(scene, RenderSettings("lamp-glass", 41, 64, 36, samples=4, threads=1, by_source=True))
    assert np.array_equal(plain.noisy, told.noisy)
    assert plain.picture.parts is None
    parts = told.picture.parts.reshape(36, 64, 3, 3)
    assert all(parts[:, :, k].max() > 0 for k in range(3))
    assert (told.noisy - parts.sum(axis=2) > -1e-3).all()


def test_advice_on_rays_predicts_at_most_what_another_split_gains(tmp_path):
    from pemlo.core.appraisal.noise_sources import sources_of
    from pemlo.core.measure.noise_sources import shares
    from pemlo.core.pixels.display import Srgb
    from pemlo_simulators.renderer.output import write_picture
    from pemlo_simulators.renderer.settings import Split

    def found(shadow, name):
        asked = RenderSettings(
            "strike",
            86,
            96,
            54,
            samples=32,
            threads=1,
            by_source=True,
            seed=shadow,
            split=Split(shadow, 1, 1),
            half=False,
        )
        write_picture(render(find_scene("strike"), asked), tmp_path / name)
        return sources_of(tmp_path / name, Srgb())

    one, four = found(1, "one.exr"), found(4, "four.exr")
    assert sum(shares(one.rest, one.sources).values()) == pytest.approx(1)
    assert one.sources["shadow"].variance / 4 < four.sources["shadow"].variance < 0.75 * one.sources["shadow"].variance
    assert (one.sources["shadow"].rays, four.sources["shadow"].rays) == (1, 4)
