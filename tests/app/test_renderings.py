"""The queue of frames to render, with the renderer's process replaced by small ones that answer, crash or hang."""

import os
import sys
import time
from dataclasses import replace

import pytest

from pemlo.app.jobs import Jobs
from pemlo.app.renderings import RENDER, Renderer, Rendering, RenderQueue
from pemlo.core.errors import PemloError
from pemlo.core.progress import Unwatched
from pemlo.core.project.settings import FrameSettings

ANSWERS = """
import json, sys
for line in sys.stdin:
    asked = json.loads(line)
    print(json.dumps({"fraction": 0.5, "text": "Tracing"}), flush=True)
    print(json.dumps({"refined": asked["small"]}), flush=True)
    print(json.dumps({"done": {"frame": asked["settings"]["frame"], "seconds": 1.5}}), flush=True)
"""
CRASHES = "import sys; sys.stdin.readline(); print('the last words', file=sys.stderr); sys.exit(3)"
REFUSES = """
import json, sys
for line in sys.stdin:
    print(json.dumps({"failed": "The scene is unknown.", "hint": "Take another."}), flush=True)
"""
HANGS = """
import json, sys, time
sys.stdin.readline()
print(json.dumps({"fraction": 0.1, "text": "Tracing"}), flush=True)
time.sleep(600)
"""
NOISE = "import sys; sys.stdin.readline(); print('no JSON at all', flush=True); sys.stdin.readline()"


def rendering(tmp_path, frame=1):
    return Rendering(
        "010", "stairs", frame, (64, 36), FrameSettings(samples=4, keep=("light",)), tmp_path / "a.exr",
        tmp_path / "a.jpg", "here",
    )  # fmt: skip


def renderer(code):
    return Renderer((sys.executable, "-c", code))


@pytest.fixture
def jobs(qtbot):
    made = Jobs()
    yield made
    made.shut_down()


def test_frames_land_in_the_order_in_which_they_were_asked_for(qtbot, jobs, tmp_path):
    queue = RenderQueue(jobs, renderer(ANSWERS))
    landed, refined = [], []
    queue.landed.connect(lambda done, header: landed.append((done.frame, header)))
    queue.refined.connect(lambda one, _: refined.append(one))
    queue.add([rendering(tmp_path, 3), rendering(tmp_path, 1)])
    queue.add([rendering(tmp_path, 2)])
    assert [one.frame for one in queue.waiting] == [3, 1, 2]
    qtbot.waitUntil(lambda: not queue.waiting, timeout=20_000)
    assert [frame for frame, _ in landed] == [3, 1, 2]
    assert landed[0][1] == {"frame": 3, "seconds": 1.5}
    assert [one.frame for one in refined] == [3, 1, 2]
    queue.close()


def test_a_crash_is_an_error_with_its_last_words_and_the_rest_goes_on(qtbot, jobs, tmp_path):
    queue = RenderQueue(jobs, renderer(CRASHES))
    errors = []
    jobs.failed.connect(lambda key, error: errors.append(error))
    queue.add([rendering(tmp_path, 1), rendering(tmp_path, 2)])
    qtbot.waitUntil(lambda: not queue.waiting, timeout=20_000)
    assert len(errors) == 2
    assert all(isinstance(error, PemloError) for error in errors)
    assert "the last words" in str(errors[0])


def test_what_the_renderer_refuses_is_told_in_its_words():
    one = renderer(REFUSES)
    with pytest.raises(PemloError, match=r"The scene is unknown\.") as error:
        one.run({}, Unwatched(), lambda _: None)
    assert error.value.hint == "Take another."
    one.close()


def test_an_answer_that_is_none_is_an_error_and_no_hang():
    one = renderer(NOISE)
    with pytest.raises(PemloError, match="renderer"):
        one.run({}, Unwatched(), lambda _: None)


def test_stopping_kills_at_once_and_forgets_what_waits(qtbot, jobs, tmp_path):
    one = renderer(HANGS)
    queue = RenderQueue(jobs, one)
    landed = []
    queue.landed.connect(lambda *found: landed.append(found))
    queue.add([rendering(tmp_path, 1), rendering(tmp_path, 2)])
    qtbot.waitUntil(lambda: one._process is not None, timeout=10_000)
    process, began = one._process, time.monotonic()
    jobs.cancel(RENDER)
    qtbot.waitUntil(lambda: process.poll() is not None, timeout=5_000)
    assert time.monotonic() - began < 5
    assert not queue.waiting
    assert not landed


def test_a_program_that_is_not_there_is_an_error():
    with pytest.raises(PemloError, match="cannot be started"):
        Renderer(("/nowhere/at/all",)).run({}, Unwatched(), lambda _: None)


def test_kept_data_lie_beside_the_pictures(tmp_path):
    asked = rendering(tmp_path).request()
    assert asked["settings"]["keep"] == ("light",)
    assert asked["kept"] == str(tmp_path / "cache")


def test_a_frame_that_is_asked_for_again_finds_what_there_is_of_it(tmp_path):
    first, again = rendering(tmp_path), replace(rendering(tmp_path), picture=tmp_path / "b.exr", seed=7)
    assert first.unfinished == again.unfinished
    assert first.unfinished.parent == tmp_path
    assert first.request()["unfinished"] == str(first.unfinished)
    others = [rendering(tmp_path, 2), replace(first, shot="020"), replace(first, settings=FrameSettings(samples=8))]
    assert len({first.unfinished, *(other.unfinished for other in others)}) == 4


def test_what_unfinished_frames_left_long_ago_goes(qtbot, jobs, tmp_path):
    old, young, other = (tmp_path / name for name in (".a.unfinished.npz", ".b.unfinished.npz", "c.npz"))
    for path in (old, young, other):
        path.write_bytes(b"")
    for path in (old, other):
        os.utime(path, (1e9, 1e9))
    queue = RenderQueue(jobs, renderer(ANSWERS))
    queue.add([rendering(tmp_path)])
    qtbot.waitUntil(lambda: not queue.waiting, timeout=10_000)
    assert [path.exists() for path in (old, young, other)] == [False, True, True]
    queue.close()


def test_a_frame_asked_for_while_another_is_being_stopped_gets_a_process_of_its_own(qtbot, jobs, tmp_path):
    """One impatient person: stop, and the next at once, many times over."""
    slow = "import time\n" + ANSWERS.replace("asked = json.loads(line)", "asked = json.loads(line); time.sleep(0.2)")
    queue = RenderQueue(jobs, renderer(slow))
    landed, errors = [], []
    queue.landed.connect(lambda done, _: landed.append(done.frame))
    jobs.failed.connect(lambda _, error: errors.append(error))
    for frame in range(1, 6):
        queue.add([rendering(tmp_path, frame)])
        qtbot.wait(20)
        queue.forget()
        assert not queue.waiting
    queue.add([rendering(tmp_path, 99)])
    qtbot.waitUntil(lambda: not queue.waiting, timeout=20_000)
    assert landed == [99]
    assert not errors
    queue.close()


def test_closing_ends_the_process_also_in_the_middle_of_a_frame(qtbot, jobs, tmp_path):
    one = renderer(HANGS)
    queue = RenderQueue(jobs, one)
    queue.add([rendering(tmp_path)])
    qtbot.waitUntil(lambda: one._process is not None, timeout=10_000)
    process = one._process
    queue.close()
    assert process.poll() is not None
    queue.close()


def test_what_a_request_says_is_what_was_asked(tmp_path):
    one = Rendering(
        "010", "stairs", 7, (640, 360),
        FrameSettings(
            samples=64, min_samples=4, noise_threshold=0.1, denoise="frame", resolution_percent=50, most_seconds=9.0,
            split=(4, 1, 2), switches=("soft filter",), saves=2,
        ),
        tmp_path / "a.exr", tmp_path / "a.jpg", "here", 3, (0, 0, 9, 9),
    )  # fmt: skip
    asked = one.request()
    assert asked["kept"] is None
    from pemlo.standins.renderer.settings import RenderSettings, Split, settings_of

    assert settings_of(asked["settings"]) == RenderSettings(
        "stairs", 7, 640, 360, resolution_percent=50, samples=64, min_samples=4, noise_threshold=0.1, seed=3,
        region=(0, 0, 9, 9), denoise="frame", by_source=True, seconds=9.0, split=Split(4, 1, 2), saves=2,
        motion_blur=False, gaussian_filter=True,
    )  # fmt: skip
