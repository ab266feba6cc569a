"""A window on Hand-over, for tests, and a film that is launched as planned."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton

from film import make_project, make_shot, well_timed
from pemlo.app import launch_checker
from pemlo.core.preflight.check_context import plan_row
from pemlo.core.preflight.finding import WRONG
from pemlo.core.project.machines import Machine
from window import open_window, run_action, settle, without_advice


@pytest.fixture(autouse=True)
def quick_checks(monkeypatch):
    without_advice(monkeypatch)
    monkeypatch.setattr(launch_checker, "REST_MS", 1)


def film():
    shots = (make_shot("010", 40), make_shot("020", 30))
    project = make_project(
        shots, well_timed("010", (1, 40)), (Machine(name="desk"), Machine(name="blade")), width=48, height=32
    )
    rows = tuple(
        plan_row(project, shot).replace(pattern="{shot}.{frame:04}.exr", folder=f"r/{shot.name}") for shot in shots
    )
    return project.replace(launch=rows)


class HandingOver:
    """A window on Hand-over."""

    def __init__(self, qtbot, project, path=None):
        self.qtbot = qtbot
        self.window = open_window(qtbot, project, path)
        run_action(self.window, "hand-over")
        self.panel = self.window.handover
        self.wait()

    def wait(self):
        settle(self.qtbot, self.window)
        self.qtbot.waitUntil(lambda: self.window.checker.rests, timeout=20_000)
        settle(self.qtbot, self.window)

    @property
    def project(self):
        return self.window.document.project

    @property
    def wrong(self):
        return {(finding.check, finding.shot) for finding in self.panel.found.findings if finding.outcome == WRONG}

    def links(self, words):
        return [one for one in self.panel.checks.findings.findChildren(QPushButton) if one.text() == words]

    def press(self, words):
        (link,) = self.links(words)
        QTest.mouseClick(link, Qt.MouseButton.LeftButton)
        self.wait()


@pytest.fixture
def hand(qtbot, tmp_path):
    return HandingOver(qtbot, film(), tmp_path / "job.pemlo")
