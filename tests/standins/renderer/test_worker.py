"""The renderer as a process: lines of JSON in, lines of JSON out, whatever comes in."""

import io
import json

import numpy as np
import pytest

from pemlo.core.progress import Cancelled
from pemlo.standins.renderer import worker
from pemlo.standins.renderer.clock import Clock
from pemlo.standins.renderer.exr import read_exr
from pemlo.standins.renderer.film import blank_film
from pemlo.standins.renderer.film_file import read_unfinished, write_film
from pemlo.standins.renderer.render import render
from pemlo.standins.renderer.scenes import find_scene
from pemlo.standins.renderer.settings import RenderSettings


def ask(tmp_path, *requests):
    lines = [
        json.dumps(
            {
                "settings": {
                    "scene": "stairs", "frame": 3, "width": 64, "height": 36, "samples": 4, "denoise": "none", **settings,
                },
                "picture": str(tmp_path / f"{number}.exr"), "small": str(tmp_path / f"{number}.jpg"),
                "machine": "here", "kept": str(tmp_path / "kept"), "unfinished": str(tmp_path / "unfinished.npz"),
            }
        )
        for number, settings in enumerate(requests)
    ]  # fmt: skip
    answers = io.StringIO()
    worker.main(io.StringIO("\n".join([*lines, ""])), answers)
    found = [json.loads(line) for line in answers.getvalue().splitlines()]
    return found, [answer for answer in found if "done" in answer or "failed" in answer]


def test_wrong_requests_are_refused_in_words_and_the_next_is_served(tmp_path):
    _, ends = ask(tmp_path, {"scene": "nowhere"}, {"width": 0}, {"denoise": "magic"}, {"keep": ["trace"]}, {})
    assert [next(iter(end)) for end in ends] == ["failed"] * 4 + ["done"]
    for end, words in zip(ends, ("nowhere", "0x36", "magic", "trace"), strict=False):
        assert words in end["failed"]
    assert (tmp_path / "4.exr").exists()
    assert sorted(path.name for path in tmp_path.glob("*.exr")) == ["4.exr"]


def test_no_trial_carries_the_start_of_the_process(tmp_path):
    found, ends = ask(tmp_path, {}, {"seed": 1})
    assert [end["done"]["first_run"] for end in ends] == [0, 0]
    assert sum("Warming up" in answer.get("text", "") for answer in found) == 1


def test_the_picture_is_the_one_that_the_renderer_makes(tmp_path):
    _, ends = ask(tmp_path, {"noise_threshold": 0.1, "min_samples": 4, "samples": 32, "region": [8, 8, 40, 30]})
    settings = RenderSettings(
        "stairs", 3, 64, 36, noise_threshold=0.1, min_samples=4, samples=32, region=(8, 8, 40, 30), half=False
    )
    expected = render(find_scene("stairs"), settings)
    assert ends[0]["done"]["mean_samples"] == expected.mean_samples
    back = read_exr(tmp_path / "0.exr")
    at = [back.names.index(letter) for letter in "RGB"]
    assert np.allclose(back.pixels[..., at], expected.picture.colour, rtol=2e-3, atol=1e-5)


def test_kept_data_are_told_when_they_were_there(tmp_path):
    _, ends = ask(tmp_path, {"keep": ["light"]}, {"keep": ["light"]})
    assert [end["done"]["read_back"] for end in ends] == ["nothing", "light"]
    assert ends[1]["done"]["light_seconds"] < 0.5 * ends[0]["done"]["light_seconds"]


SAVING = {"samples": 64, "saves": 3, "width": 128, "height": 72}


def test_an_unfinished_frame_is_gone_on_from_with_its_seed_and_all_its_seconds(tmp_path):
    settings = RenderSettings("stairs", 3, 128, 72, samples=64, saves=3, seed=5)
    path = tmp_path / "unfinished.npz"

    class Breaks:
        def step(self, fraction, text):
            if text == "Tracing" and fraction > 0.8:
                raise Cancelled

    with pytest.raises(Cancelled):
        render(find_scene("stairs"), settings, Breaks(), unfinished=path)
    before = read_unfinished(path, settings)[1]
    _, (end,) = ask(tmp_path, {**SAVING, "seed": 9})
    done = end["done"]
    assert done["seed"] == "5", "samples of two seeds are not of one frame"
    assert done["mean_samples"] == 64
    traced = before.processor["trace"] / done["threads"]
    assert traced < done["trace_seconds"], "what was traced before counts"
    whole = render(find_scene("stairs"), settings)
    assert done["trace_seconds"] > 0.5 * sum(whole.clock.processor[stage] for stage in ("trace",)) / done["threads"]
    back = read_exr(tmp_path / "0.exr")
    at = [back.names.index(letter) for letter in "RGB"]
    assert np.allclose(back.pixels[..., at], whole.picture.colour, rtol=2e-3, atol=1e-5)
    assert not path.exists(), "nothing stays behind"


@pytest.mark.parametrize("left", [b"", b"not an archive"])
def test_an_unfinished_file_that_is_of_no_use_stops_nothing(tmp_path, left):
    path = tmp_path / "unfinished.npz"
    path.write_bytes(left)
    _, (end,) = ask(tmp_path, {**SAVING, "samples": 4})
    assert end["done"]["mean_samples"] == 4
    assert not path.exists()


def test_an_unfinished_file_of_another_frame_is_not_gone_on_from(tmp_path):
    path = tmp_path / "unfinished.npz"
    other = RenderSettings("stairs", 4, 128, 72, samples=8, saves=1)
    write_film(path, other, blank_film(other), Clock())
    _, (end,) = ask(tmp_path, {**SAVING, "samples": 4, "seed": 9})
    assert (end["done"]["seed"], end["done"]["mean_samples"]) == ("9", 4)
