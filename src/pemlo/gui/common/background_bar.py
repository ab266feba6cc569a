"""The line at the bottom: what runs in the background, how far it is, and a way to stop it. GUI thread."""

from PySide6.QtWidgets import QHBoxLayout, QProgressBar

from pemlo.app.jobs import Jobs, Progress
from pemlo.core.units import format_duration
from pemlo.gui.common.labels import button, label
from pemlo.gui.common.opaque import Opaque


class BackgroundBar(Opaque):
    """Shows the work in the background; says what the forecast rests on when there is none."""

    def __init__(self, jobs: Jobs) -> None:
        super().__init__("background")
        self.setFixedHeight(28)
        self._jobs = jobs
        self._key = ""
        self._resting = ""
        self._words = label("", "second", small=True)
        self._bar = QProgressBar()
        self._bar.setTextVisible(False)
        self._bar.setFixedSize(140, 8)
        self._bar.setAccessibleName("Progress")
        self._stop = button("stop", "Stop this work", self._on_stop, link=True)
        self._again = button("do it again", "Ask for this work once more", self._on_again, link=True)
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 0, 16, 0)
        row.setSpacing(10)
        row.addWidget(self._words)
        row.addWidget(self._bar)
        row.addWidget(self._stop)
        row.addWidget(self._again)
        row.addStretch(1)
        jobs.progressed.connect(self._on_progressed)
        jobs.busy_changed.connect(self._on_busy_changed)
        self._on_busy_changed()

    def rest(self, words: str) -> None:
        """Say something while nothing runs."""
        self._resting = words
        self._on_busy_changed()

    def _on_busy_changed(self) -> None:
        running, left = self._jobs.shown, self._jobs.not_done
        self._key = next(iter(running or left), "")
        words = running[self._key] if running else f"Not done: {left[self._key]}" if left else self._resting
        self._words.setText(words)
        self._bar.setVisible(bool(running))
        self._stop.setVisible(bool(running))
        self._again.setVisible(bool(left) and not running)
        self._bar.setRange(0, 0 if running else 100)

    def _on_progressed(self, progress: Progress) -> None:
        if progress.key != self._key:
            return
        left = f", {format_duration(progress.seconds_left)} left" if progress.seconds_left is not None else ""
        self._words.setText(f"{progress.text}: {100 * progress.fraction:.0f} %{left}")
        self._bar.setRange(0, 100)
        self._bar.setValue(round(100 * progress.fraction))

    def _on_stop(self) -> None:
        self._jobs.stop(self._key)

    def _on_again(self) -> None:
        self._jobs.ask_again(self._key)
