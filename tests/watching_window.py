"""A real window on a film that the small farm renders by a clock that the test turns."""

from film import make_project, make_shot
from pemlo.core.persistence.document import read_project, write_project
from pemlo.core.project.machines import Machine
from pemlo.core.project.trials import Trial
from watched import Played
from window import open_window, run_action


def film(deadline="2031-04-21T16:00Z"):
    shots = (make_shot("010", 30), make_shot("020", 20), make_shot("030", 20))
    trials = tuple(
        Trial(shot=one.name, frame=10, seconds=seconds, samples=samples)
        for one, level in zip(shots, (400.0, 500.0, 300.0), strict=True)
        for samples, seconds in ((256, level), (32, level / 6))
    )
    machines = (Machine(name="desk"), Machine(name="blade", speed=1.5))
    return make_project(shots, trials, machines, width=320, height=180, deadline=deadline)


class Watched:
    """A window on a film that the small farm renders by a clock that the test turns."""

    def __init__(self, qtbot, monkeypatch, tmp_path, faults="", project=None):
        self.qtbot, self.at = qtbot, 0.0
        self.played = Played(project or film(), tmp_path, faults=faults)
        self.path = tmp_path / "job.pemlo"
        write_project(self.played.project, self.path)
        self.open()

    def open(self):
        self.window = open_window(self.qtbot, read_project(self.path), self.path, wall=self.wall)
        run_action(self.window, "watch")
        self.panel = self.window.watch

    def wall(self):
        return self.played.project.start.timestamp() + self.at

    def go_to(self, at):
        """Let the farm render until then, and wait until the window has seen it."""
        self.at = at
        self.played.play(at)
        self.see()

    def see(self):
        self.qtbot.waitUntil(self._has_seen, timeout=30_000)
        settle_watch(self.qtbot, self.window)

    def _has_seen(self):
        last = self.window.watcher.last
        if last is None or last.live_forecast.snapshot.now < self.at - 1 or last.live_forecast.snapshot.look.unchecked:
            self.window.watcher.look()
            return False
        return True

    @property
    def found(self):
        return self.panel.found


def settle_watch(qtbot, window):
    qtbot.waitUntil(lambda: not window.jobs.running.keys() - {"watch"} and window.state.rests, timeout=60_000)
