"""Stories with a person's own renderer: from one pasted command to a settled verdict, unattended.

Nothing in the window knows the programs; no time is typed.
"""

import time

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication, QTextCursor
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton

from film import make_project, make_shot
from pemlo.app.trial_rows import RENDER
from pemlo.core.persistence.document import read_project, write_project
from pemlo.core.project.machines import Machine
from pemlo.core.project.settings import FrameSettings
from pemlo.core.trialrun import allowed
from pemlo.core.trialrun.run import records
from pemlo.core.trialrun.session import not_taken
from pemlo.gui.trials.by_hand import Stopwatch
from pemlo.gui.trials.way_texts import FIELDS, empty_texts, texts_of, way_of
from render_programs import ANSWERS, FAILS, HANGS, program
from render_programs import way_of as way_that_runs
from window import open_window, run_action, settle

# Fails for one shot, by its scene.
ONE_FAILS = "import sys\nif sys.argv[1] == 'broken':\n    print('broken has no map'); sys.exit(3)\n" + ANSWERS


def film(tmp_path, shots=None, **fields):
    """A film that nobody has timed, and a window of it at Trials."""
    shots = shots or (make_shot("010", 100, samples=64), make_shot("020", 50, samples=32))
    project = make_project(shots, machines=(Machine(name="desk"),), width=128, height=72).replace(**fields)
    path = tmp_path / "film.pemlo"
    write_project(project, path)
    return path


def opened(qtbot, path):
    window = open_window(qtbot, read_project(path), path)
    run_action(window, "trials")
    settle(qtbot, window)
    return window


def click(parent, text):
    found = next(one for one in parent.findChildren(QPushButton) if one.text() == text and one.isVisibleTo(parent))
    QTest.mouseClick(found, Qt.MouseButton.LeftButton)


def done(qtbot, window, timeout=120_000):
    qtbot.waitUntil(lambda: not window.trial_queue.busy, timeout=timeout)
    settle(qtbot, window)


def pick_frame(table, frame):
    """Pick the line of a frame in the queue."""
    line = next(n for n, one in enumerate(table.model().lines) if one.row.choice.frame == frame)
    where = table.visualRect(table.model().index(line, 1)).center()
    QTest.mouseClick(table.viewport(), Qt.MouseButton.LeftButton, pos=where)


def select(box, text):
    """Select a part of a text, as with the mouse."""
    cursor = box.textCursor()
    begin = box.toPlainText().index(text)
    cursor.setPosition(begin)
    cursor.setPosition(begin + len(text), QTextCursor.MoveMode.KeepAnchor)
    box.setTextCursor(cursor)


def test_from_a_pasted_command_to_a_settled_verdict(qtbot, tmp_path):
    """Paste, learn, correct, dry run, one trial, minutes, undo, close and reopen."""
    path = film(tmp_path)
    window = opened(qtbot, path)
    assert "Time one frame" in window.verdict.headline.text()
    click(window.trials.card, "My renderer…")
    form = window.trials.renders.ways.way_form
    assert not form.go.isEnabled()
    values = {"out": "/tests/quay.0012.png", "frame": 12, "samples": 64, "width": 128, "height": "{height}"}
    QTest.keyClicks(form.command, program(tmp_path, "works").format(**values).replace("{height}", "91"))
    click(form, "Learn")
    assert "12 is the frame: the picture's name has it." in form.learned.text()
    assert "Not recognised: 91." in form.learned.text()
    select(form.command, "91")
    click(form, "height")
    assert form.command.toPlainText() == program(tmp_path, "works")
    assert form.inputs["picture"].text() == ".png"
    dry = form.dry.toPlainText()
    assert "shot 010, frame 50: 64 samples, 50 %:" in dry
    assert " 50 64 64 36" in dry, "half of 128 by 72"
    assert not window.document.project.render_ways, "nothing is kept yet"
    click(form, "Keep it and try one frame")
    done(qtbot, window)
    (trial,) = window.document.project.trials
    assert (trial.shot, trial.width, trial.samples) == ("010", 64, 64)
    assert 0.37 < trial.seconds < 2
    assert (tmp_path / "film pictures").is_dir()
    click(window.trials.card, "Spend time…")
    form = window.trials.renders.spend_form
    form.time.selectAll()
    QTest.keyClicks(form.time, "2")
    click(form, "Spend 2 min")
    done(qtbot, window)
    assert "The verdict is settled: the film makes its deadline" in window.trials.queue.said.text()
    assert window.verdict.headline.text().startswith("Makes")
    count = len(window.document.project.trials)
    run_action(window, "undo")
    assert len(window.document.project.trials) == count - 1
    run_action(window, "redo")
    run_action(window, "save")
    settle(qtbot, window)
    assert not not_taken(records(tmp_path / "film pictures")), "all of them are in the file"
    window.close()
    again = opened(qtbot, path)
    assert len(again.document.project.trials) == count
    assert again.document.project.render_ways[0].command == program(tmp_path, "works")
    assert again.trials.card.render_it.isVisibleTo(again)


def test_minutes_with_one_failing_shot_stopped_by_hand(qtbot, tmp_path):
    """The failing shot is said and left alone, the others go on; stop leaves nothing under way."""
    shots = tuple(
        make_shot(name, 100, samples=64).replace(extra_columns=(("scene", scene),))
        for name, scene in (("010", "stairs"), ("020", "broken"), ("030", "stairs"))
    )
    way = way_that_runs(tmp_path, ONE_FAILS)
    way = way.replace(command=way.command.replace(" stairs ", " {scene} "))
    allowed.allow(way, tmp_path)
    window = opened(qtbot, film(tmp_path, shots, render_ways=(way,)))
    # By hand: 300 frames of 8.5 s are 43 minutes, and there are 45: no early trial settles that.
    window.document.edit(
        "Set the deadline", lambda p: p.replace(delivery=p.delivery.replace(deadline="2031-04-21T10:45Z"))
    )
    window.trial_queue.spend(way, 10.0)
    rows = window.trial_queue
    # Real renders: a minute here, twice that beside other tests on a slow machine.
    qtbot.waitUntil(lambda: len([r for r in rows.rows if r.state == "failed"]) == 2, timeout=300_000)
    qtbot.waitUntil(lambda: not rows.busy or len([r for r in rows.rows if r.state == "landed"]) >= 3, timeout=300_000)
    failed = [row for row in rows.rows if row.state == "failed"]
    assert [row.choice.shot for row in failed] == ["020", "020"], "and it is left alone then"
    assert "broken has no map" in failed[0].why
    shown = [window.trials.queue.model.rows[n].state for n in range(len(window.trials.queue.model.rows))]
    assert "■ done" in shown
    click(window.trials.queue, "Stop all") if rows.busy else None
    assert not rows.busy
    qtbot.waitUntil(lambda: not [key for key in window.jobs.running if key.startswith(RENDER)])
    assert {trial.shot for trial in window.document.project.trials} == {"010", "030"}
    settle(qtbot, window)


def test_a_command_that_came_with_the_project_is_shown_before_it_runs(qtbot, tmp_path, monkeypatch):
    way = way_that_runs(tmp_path, allow=False)
    window = opened(qtbot, film(tmp_path, render_ways=(way,)))
    window.trials.card.render_it.click()
    form = window.trials.renders.ways.allow_form
    assert form.isVisible()
    assert way.command in form.text.toPlainText()
    click(form, "Do not run it")
    assert not window.trial_queue.busy
    window.trials.card.render_it.click()
    click(window.trials.renders.ways.allow_form, "Allow it here")
    done(qtbot, window)
    assert len(window.document.project.trials) == 1
    assert allowed.is_allowed(way, tmp_path)


def test_frames_wait_are_put_first_skipped_and_stopped(qtbot, tmp_path):
    window = opened(qtbot, film(tmp_path, render_ways=(way_that_runs(tmp_path, HANGS),)))
    for frame in (1, 2, 3, 4):
        window.trials.renders.render_one("010", frame, FrameSettings(samples=64))
    queue, table = window.trial_queue, window.trials.queue.table
    assert [row.choice.frame for row in queue.waiting] == [1, 2, 3, 4]
    pick_frame(table, 4)
    click(window.trials.queue, "First")
    assert [row.choice.frame for row in queue.waiting] == [1, 4, 2, 3]
    pick_frame(table, 2)
    click(window.trials.queue, "Skip")
    assert [row.choice.frame for row in queue.waiting] == [1, 4, 3]
    pick_frame(table, 1)
    click(window.trials.queue, "Skip")
    assert [row.choice.frame for row in queue.waiting] == [4, 3], "the next has begun"
    click(window.trials.queue, "Stop all")
    assert not queue.busy
    settle(qtbot, window)
    assert not window.document.project.trials


def test_what_cannot_be_started_ends_the_queue_with_a_message(qtbot, tmp_path):
    way = way_that_runs(tmp_path).replace(command="/nowhere/draw {frame} {samples} {out}")
    allowed.allow(way, tmp_path)
    window = opened(qtbot, film(tmp_path, render_ways=(way,)))
    for frame in (1, 2):
        window.trials.renders.render_one("010", frame, FrameSettings(samples=64))
    done(qtbot, window)
    assert "“/nowhere/draw” cannot be started" in window.problems.words
    assert [row.state for row in window.trial_queue.rows] == ["failed", "skipped"]


def test_a_setting_that_the_command_cannot_reach_says_which(qtbot, tmp_path):
    way = way_that_runs(tmp_path).replace(
        command=f"{program(tmp_path, 'works').replace('{samples}', '8')}", picture=".png"
    )
    allowed.allow(way, tmp_path)
    window = opened(qtbot, film(tmp_path, render_ways=(way,)))
    window.trials.renders.render_one("010", 5, FrameSettings(samples=16))
    assert "“main” cannot set samples: its command has no field for it." in window.problems.words
    assert not window.trial_queue.busy


def test_finished_trials_of_a_killed_program_are_offered(qtbot, tmp_path):
    path = film(tmp_path, render_ways=(way_that_runs(tmp_path),))
    window = opened(qtbot, path)
    window.trials.renders.render_one("010", 5, FrameSettings(samples=64))
    done(qtbot, window)
    window.document.history.set_clean()  # as if it were killed: nothing was saved
    settle(qtbot, window)
    for taken in (tmp_path / "film pictures/runs").glob("*/in the project"):
        taken.unlink()
    window.close()
    again = opened(qtbot, path)
    assert "1 finished trial is not in the project" in again.problems.words
    click(again.problems, "Take in")
    assert [trial.frame for trial in again.document.project.trials] == [5]


# Writes what there is so far under the picture's own name, and then the whole.
GROWS = """
import sys, time
import numpy as np
from pathlib import Path
from pemlo_simulators.renderer.exr import Channels, write_exr
width, height = int(sys.argv[3]), int(sys.argv[4])
for noise in (0.3, 0.2, 0.1):
    random = np.random.default_rng(1).uniform(0.5 - noise, 0.5 + noise, (height, width, 3)).astype("f4")
    write_exr(Path(sys.argv[-1]), Channels(("R", "G", "B"), random, {}))
    time.sleep(0.8)
"""


def test_the_picture_refines_from_the_file_that_is_saved(qtbot, tmp_path):
    window = opened(qtbot, film(tmp_path, render_ways=(way_that_runs(tmp_path, GROWS),)))
    window.trials.renders.render_one("010", 5, FrameSettings(samples=64))
    assert window.trials.queue.refining.pixmap().isNull()
    qtbot.waitUntil(lambda: not window.trials.queue.refining.pixmap().isNull(), timeout=20_000)
    assert window.trial_queue.busy, "it is shown before the frame is done"
    done(qtbot, window)
    (trial,) = window.document.project.trials
    assert trial.seconds > 2.4, "and the time is that of the whole frame"
    assert not window.trials.queue.rendering.isVisibleTo(window)


def test_a_dry_run_of_a_ladder_shows_every_command(qtbot, tmp_path):
    window = opened(qtbot, film(tmp_path, render_ways=(way_that_runs(tmp_path),)))
    window.pick(("010",))
    run_action(window, "render")
    form = window.trials.renders.form
    form.fields["samples"].setText("8, 16, 32")
    click(form, "Dry run")
    lines = form.commands.toPlainText().splitlines()
    assert len([line for line in lines if "main.py" in line]) == 3
    assert "shot 010, frame 50: 16 samples:" in lines
    assert not window.trial_queue.busy
    form.reject()


def test_a_way_is_kept_before_any_shot_has_its_scene(qtbot, tmp_path):
    window = opened(qtbot, film(tmp_path))
    click(window.trials.card, "My renderer…")
    form = window.trials.renders.ways.way_form
    form.command.setPlainText("draw {scene} -f {frame} -o {out}")
    assert form.dry.toPlainText().startswith("No shot of the brief has what the command needs.")
    assert not form.try_it.isEnabled()
    click(form, "Keep it")
    assert window.document.project.render_ways[0].command == "draw {scene} -f {frame} -o {out}"
    assert not window.trials.card.render_it.isVisibleTo(window)


def test_a_trial_that_fails_is_a_row_with_its_reason(qtbot, tmp_path):
    window = opened(qtbot, film(tmp_path, render_ways=(way_that_runs(tmp_path, FAILS),)))
    window.trials.card.render_it.click()
    done(qtbot, window)
    (line,) = window.trials.queue.model.rows
    assert line.state == "× no trial"
    assert line.said == "The renderer failed: exit status 7. It said last: the last words"


def test_by_hand_with_the_stopwatch_and_by_paste(qtbot, tmp_path):
    window = opened(qtbot, film(tmp_path))
    click(window.trials.card, "By hand…")
    hand = window.trials.edits.hand
    now = [100.0]
    hand.watch._clock = lambda: now[0]
    QTest.keyClick(hand, Qt.Key.Key_Space)
    now[0] += 42.5
    QTest.keyClick(hand, Qt.Key.Key_Return)
    now[0] += 8.0
    QTest.keyClick(hand, Qt.Key.Key_Space)
    assert [hand._text(row) for row in range(2)] == ["42.50 s", "8.00 s"]
    assert hand.go.text() == "Add 2 trials"
    one = hand._trials[0]
    QGuiApplication.clipboard().setText(f"{one.shot}\t{one.frame}\t4:02\nnobody\t1\t3 s")
    click(hand, "Paste times")
    assert hand.trials()[0].seconds == 242
    assert "nobody" in hand.said.text()
    hand.save_to(tmp_path / "list.html")
    settle(qtbot, window)
    page = (tmp_path / "list.html").read_text()
    assert f'data-row="{one.shot}&#9;{one.frame}"' in page
    click(hand, "Add 2 trials")
    settle(qtbot, window)
    assert [trial.seconds for trial in window.document.project.trials] == [242, 8]


def test_the_watch_takes_no_time_before_it_is_started(qtbot):
    taken = []
    watch = Stopwatch(taken.append)
    qtbot.addWidget(watch)
    watch.next_frame()
    assert taken == []
    began = time.monotonic()
    watch.turn()
    qtbot.wait(50)
    watch.turn()
    assert 0.03 < taken[0] <= time.monotonic() - began


def test_the_page_says_all_of_a_way_and_reads_it_back():
    texts = {
        **empty_texts(), "command": "draw {frame} {threshold} {out}", "said": "threshold none = --raw",
        "output": "took [seconds:3 s]", "header": "seconds = a/b", "environment": "A=1", "machines": "desk\nblade = far",
        "untouched": "/film/final", "limit": "10:00", "at_once": "2", "folder": "/film", "picture": ".png",
    }  # fmt: skip
    way = way_of(texts, shell=False, first_left_out=True)
    assert way.first_left_out
    assert way_of(texts_of(way), shell=False, first_left_out=True) == way
    assert {name for name, *_ in FIELDS} <= texts_of(way).keys()


@pytest.mark.parametrize(
    ("field", "text", "words"),
    [
        ("said", "denoise", "no line of the table"), ("output", "took 3 s", "nothing is marked"), ("header", "seconds", "NAME"),
        ("at_once", "many", "whole number"), ("limit", "soon", "soon"), ("environment", "1A=2", "name of a variable"),
        ("command", "draw {frame}", "{out}"),
    ],
)  # fmt: skip
def test_wrong_texts_of_a_way_are_refused_in_words(field, text, words):
    from pemlo.core.errors import InputError

    with pytest.raises(InputError) as error:
        way_of({**empty_texts(), "command": "draw {frame} {out}", field: text}, shell=False, first_left_out=False)
    assert words in str(error.value)
