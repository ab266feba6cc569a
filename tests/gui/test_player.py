"""Playing sequences: what is due is shown, what was not there in time is counted, memory is kept in bounds."""

import numpy as np
import pytest

from exr import write_exr
from pemlo.app.jobs import Jobs
from pemlo.core.files.picture_file import ReadOptions
from pemlo.core.files.sequence import Sequence
from pemlo.core.pixels.display import Srgb, to_display
from pemlo.gui.judge.measure.measuring import MeasureConditions
from pemlo.gui.judge.playback import player as player_module
from pemlo.gui.judge.playback.play_bar import PlayBar
from pemlo.gui.judge.playback.player import Player

FRAMES = range(1, 9)


def light(frame):
    return 0.05 * frame


@pytest.fixture(scope="module")
def run(tmp_path_factory):
    """Frames that grow brighter one by one; the fifth is missing."""
    folder = tmp_path_factory.mktemp("run")
    paths = {
        frame: write_exr(folder / f"a.{frame:04d}.exr", np.full((12, 16, 3), light(frame)))
        for frame in FRAMES
        if frame != 5
    }
    return Sequence("a", paths)


@pytest.fixture
def player(qtbot):
    jobs = Jobs()
    made = Player(jobs, lambda: MeasureConditions(Srgb(), ReadOptions()))
    made.seen = []
    made.shown.connect(lambda frame, sizes: made.seen.append((frame, sizes)))
    yield made
    made.stop()
    jobs.shut_down()


def ready(qtbot, player):
    qtbot.waitUntil(lambda: player.ahead[0] == player.ahead[1], timeout=20_000)


def brightness(sizes, side="left"):
    return sizes[side].images[0].pixelColor(3, 3).red()


def test_frames_are_read_ahead_and_shown_as_they_are(qtbot, player, run):
    player.show_runs({"left": run}, 24.0, 3)
    ready(qtbot, player)
    for frame in (1, 8, 4):
        player.go(frame)
        shown, sizes = player.seen[-1]
        assert shown == frame
        assert brightness(sizes) == pytest.approx(255 * to_display(np.array(light(frame))), abs=1)


def test_a_missing_frame_is_told_and_shows_the_one_before(qtbot, player, run):
    player.show_runs({"left": run}, 24.0, 1)
    ready(qtbot, player)
    assert player.missing() == (5,)
    player.go(4)
    before = brightness(player.seen[-1][1])
    player.go(5)
    assert brightness(player.seen[-1][1]) == before


def test_playing_shows_frames_in_order_and_counts_what_was_due(qtbot, player, run):
    player.way = "once"
    player.show_runs({"left": run, "right": run}, 50.0, 1)
    ready(qtbot, player)
    player.play()
    qtbot.waitUntil(lambda: not player.playing, timeout=10_000)
    frames = [frame for frame, _ in player.seen]
    assert frames == sorted(frames)
    assert player.tally.due == len(FRAMES)
    assert player.tally.dropped == len(FRAMES) - len(set(frames))
    assert all({"left", "right"} == set(sizes) for _, sizes in player.seen)


def test_what_is_not_read_yet_is_dropped_and_counted(qtbot, player, run, monkeypatch):
    monkeypatch.setattr(player, "_read_ahead", lambda: None)
    player.way = "once"
    player.show_runs({"left": run}, 200.0, 1)
    player.play()
    qtbot.waitUntil(lambda: not player.playing, timeout=10_000)
    assert player.seen == []
    assert player.tally.dropped == player.tally.due > 0
    assert f"{player.tally.due} of {player.tally.due} not shown in time" in player.tally.words(200.0)


def test_a_range_is_all_that_plays(qtbot, player, run):
    player.show_runs({"left": run}, 100.0, 1)
    player.set_range(6, 3)
    ready(qtbot, player)
    player.play()
    qtbot.waitUntil(lambda: player.tally.due > 8, timeout=10_000)
    player.stop()
    assert {frame for frame, _ in player.seen} <= {3, 4, 5, 6}
    player.set_range(-5, 500)
    assert (player.first, player.last) == (1, 8)


def test_memory_is_bounded_and_later_frames_give_way(qtbot, player, run, monkeypatch):
    monkeypatch.setattr(player_module, "MOST_AHEAD_BYTES", 3 * 16 * 12 * 4)
    player.show_runs({"left": run}, 24.0, 1)
    qtbot.waitUntil(lambda: player.ahead[0] >= 3, timeout=10_000)
    qtbot.wait(200)
    assert player.ahead[0] < len(FRAMES)
    player.go(7)
    qtbot.waitUntil(lambda: bool(player.seen) and player.seen[-1][0] == 7, timeout=10_000)


def test_the_bar_says_how_it_goes(qtbot, player, run):
    bar = PlayBar(player)
    qtbot.addWidget(bar)
    player.show_runs({"left": run}, 25.0, 2)
    ready(qtbot, player)
    assert "frame 2 of 1–8" in bar.words.text()
    assert "8 of 8 read ahead" in bar.words.text()
    assert "missing: 5" in bar.words.text()
    bar.range.setText("2-x")
    bar.range.editingFinished.emit()
    assert bar.range.property("wrong")
    assert (player.first, player.last) == (1, 8)
    bar.range.setText("2-4")
    bar.range.editingFinished.emit()
    assert (player.first, player.last) == (2, 4)
    bar.slider.setValue(4)
    assert player.frame == 4
    player.show_runs({}, 25.0, 1)
    assert not bar.isVisibleTo(None)
