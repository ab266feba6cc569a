"""Error by samples, on every shot of the demo that has pictures: each page has its lines, whatever is switched on."""

import pytest

from pemlo.demo import demo_project
from pemlo.gui.main_window import JUDGE
from window import open_window, settle


@pytest.mark.parametrize("shot", sorted({trial.shot for trial in demo_project().trials if trial.picture}))
def test_each_shot_of_the_demo_has_lines(qtbot, shot, monkeypatch):
    window = open_window(qtbot, demo_project())
    drawn = []
    monkeypatch.setattr("pemlo.gui.judge.error_page.draw", lambda plot, shown: drawn.append(shown))
    window.pick((shot,))
    window.show_stage(JUDGE)
    settle(qtbot, window)
    window.judge.hands.toggle_errors()
    settle(qtbot, window)
    assert drawn
    assert drawn[-1].dots
    if drawn[-1].lines:
        assert all((line.middle > 0).all() for line in drawn[-1].lines)
