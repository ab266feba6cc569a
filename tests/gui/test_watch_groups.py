"""Marks of many shots by sequence: counted, opened by hand and by the keys, picked as before."""

from types import SimpleNamespace

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt

from pemlo.core.arrivals.states import FrameState
from pemlo.core.interval import Interval
from pemlo.gui.watch.frames_view import FramesView
from pemlo.gui.watch.mark_groups import MOST_SHOTS, by_sequence, group_words
from pemlo.gui.watch.marks import MarkRow, RowMarks
from pemlo.gui.watch.presenter import MOST_MACHINES, machine_lines

FRAMES = 10


def rows(sequences=3, shots=20, done=4):
    """Shots of ten frames; of every shot some are in."""
    state = np.where(np.arange(FRAMES) < done, FrameState.IN, FrameState.WAITING).astype(np.int8)
    return [
        MarkRow(f"s{one}_{10 * shot:03d}", np.arange(1, FRAMES + 1), RowMarks(state, np.ones(FRAMES)), "4 of 10")
        for one in range(sequences)
        for shot in range(shots)
    ]


def test_many_shots_stand_by_sequence_and_their_frames_are_counted():
    found = by_sequence(rows(), ())
    assert [(row.group, row.words, len(row.frames)) for row in found] == [
        ("s0", "80 of 200", 200), ("s1", "80 of 200", 200), ("s2", "80 of 200", 200),
    ]  # fmt: skip
    assert group_words(found[0], 20).startswith("Sequence s0: 20 shots, 80 of 200")
    assert by_sequence(rows(done=FRAMES), ())[0].words == "all in"
    opened = by_sequence(rows(), {"s1"})
    assert [row.group for row in opened] == ["s0", "s1", *[""] * 20, "s2"]
    assert opened[2].shot == "s1_000"


def test_few_shots_and_shots_without_sequences_stand_each_for_itself():
    few = rows(2, MOST_SHOTS // 2)
    assert by_sequence(few, ()) == tuple(few)
    plain = [MarkRow(str(k), row.frames, row.marks, row.words) for k, row in enumerate(rows())]
    assert by_sequence(plain, ()) == tuple(plain)


@pytest.fixture
def view(qtbot):
    made, every, opened = FramesView(), rows(), set()
    qtbot.addWidget(made)
    made.resize(640, 400)

    def toggle(group):
        opened.symmetric_difference_update({group})
        made.show_rows(by_sequence(every, opened))

    made.group_toggled.connect(toggle)
    made.show_rows(by_sequence(every, opened))
    made.show()
    return made


def middle_of(view, row):
    return QPoint(view.left + 30, 2 + row * view.grid.pitch + view.grid.pitch // 2)


def test_a_click_opens_a_sequence_and_another_closes_it(qtbot, view):
    picked = []
    view.frame_picked.connect(lambda shot, frame: picked.append((shot, frame)))
    qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=middle_of(view, 1))
    assert len(view.rows) == 23
    assert picked == [], "a sequence is no frame"
    assert view.picked_frames is None
    qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=middle_of(view, 3))
    assert picked[0][0] == "s1_010"
    # What was picked stays picked when rows above it go.
    qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=middle_of(view, 0))
    assert len(view.rows) == 43
    qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=middle_of(view, 0))
    qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=middle_of(view, 1))
    assert len(view.rows) == 3


def test_the_keys_go_over_sequences_and_open_them(qtbot, view):
    view.setFocus()
    qtbot.keyClick(view, Qt.Key.Key_Down)
    assert view.picked_frames is None
    qtbot.keyClick(view, Qt.Key.Key_Return)
    assert len(view.rows) == 23
    qtbot.keyClick(view, Qt.Key.Key_Down)
    assert view.picked_frames is not None
    assert view.picked_frames[0] == "s1_000"
    qtbot.keyClick(view, Qt.Key.Key_Right)
    assert len(view.picked_frames[1]) == 1


def test_a_pick_goes_with_the_frames_that_go(view):
    view.show_rows(by_sequence(rows(), {"s2"}))
    view.pick_frames("s2_050", (9, 10))
    view.show_rows(
        [MarkRow("s2_050", np.arange(1, 4), RowMarks(np.zeros(3, np.int8), np.ones(3)), "0 of 3"), *rows()[:2]]
    )
    assert view.picked_frames is None


def machine(name, pace, *, silent=False):
    record = SimpleNamespace(delivered=9)
    pace = Interval(0.99 * pace, pace, 1.01 * pace)
    return SimpleNamespace(machine=name, record=record, pace=pace, silent=silent, frames_an_hour=30.0)


def test_of_many_machines_those_stand_that_tell_most():
    many = [machine(f"m{number:02d}", 0.5 if number == 7 else 1.0 + number / 1000) for number in range(20)]
    lines = machine_lines(many)
    assert len(lines) == MOST_MACHINES + 1
    assert any(line.startswith("m07:") for line in lines)
    assert lines[-1] == "and 14 more, nearer to their given speeds"
    many = [machine(f"m{number:02d}", 1.0, silent=number < 9) for number in range(20)]
    assert machine_lines(many)[-1] == "and 14 more, 3 of them silent"
    assert len(machine_lines(many[:MOST_MACHINES])) == MOST_MACHINES


def test_frames_of_an_alarm_are_found_among_opened_shots(view):
    view.show_rows(by_sequence(rows(), {"s2"}))
    view.pick_frames("s2_050", (3, 4))
    assert view.picked_frames == ("s2_050", (3, 4))
