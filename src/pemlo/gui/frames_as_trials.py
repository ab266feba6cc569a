"""Offers frames that are in as trials, where rendering began before anything was timed. GUI thread."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject

from pemlo.core.project.edits import add_trials

if TYPE_CHECKING:
    from pemlo.core.project.trials import Trial
    from pemlo.gui.window import Window


class FramesAsTrials(QObject):
    """Looks at what the watcher found; offers once for each project that is opened."""

    def __init__(self, window: "Window") -> None:
        super().__init__(window)
        self._window, self._told = window, False
        window.watcher.looked.connect(lambda _: self._look())
        window.document.replaced.connect(self._forget)

    def _forget(self) -> None:
        self._told = False

    @property
    def trials(self) -> "tuple[Trial, ...]":
        """The frames that would be trials; none where something was timed."""
        last, project = self._window.watcher.last, self._window.document.project
        if last is None or any(not trial.assumed for trial in project.counted_trials):
            return ()
        from pemlo.core.arrivals.live_forecast import frames_as_trials  # noqa: PLC0415 - heavy to load

        names = {shot.name for shot in project.shots}
        return tuple(trial for trial in frames_as_trials(last.live_forecast.snapshot) if trial.shot in names)

    def _look(self) -> None:
        trials = self.trials
        if trials and not self._told:
            self._told = True
            words = (
                f"Nothing was timed before frames came in. {len(trials)} of them can be the film's trials: then every "
                "stage knows what a frame takes."
            )
            self._window.problems.also(words, "", "Take them as trials", self.take)

    def take(self) -> None:
        """Add them to the film's trials."""
        trials = self.trials
        if trials:
            self._window.run(
                lambda: self._window.document.edit("Take frames as trials", lambda film: add_trials(film, trials))
            )
