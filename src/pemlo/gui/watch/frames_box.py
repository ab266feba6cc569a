"""The marks of the frames with what can be done with them: read, look, play, copy, render again. GUI thread."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QPoint, Signal
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QFrame, QHBoxLayout, QMenu, QScrollArea, QVBoxLayout, QWidget

from pemlo.core.arrivals.alarms import Alarm
from pemlo.core.arrivals.live_forecast import LiveForecast
from pemlo.core.arrivals.states import FrameState
from pemlo.core.errors import InputError
from pemlo.core.project.sequences import sequence_of
from pemlo.gui.common.enabling import enable
from pemlo.gui.common.labels import Elided, button
from pemlo.gui.common.plain import show_tip
from pemlo.gui.watch import presenter
from pemlo.gui.watch.frames_view import FramesView
from pemlo.gui.watch.mark_groups import by_sequence, group_words
from pemlo.gui.watch.marks import MarkRow
from pemlo.gui.watch.picture_pane import PicturePane, Shown


class FramesBox(QWidget):
    """The box.

    Parameters
    ----------
    pictures : PicturePane
        Where frames are looked at.
    base : callable
        Gives the folder from which pictures of trials are named.

    Signals
    -------
    shot_wanted(str)
    again_wanted(str, tuple of int)
        Frames are to be rendered again.
    keep_wanted(str)
        No frame of a shot is to be, any more.
    """

    shot_wanted = Signal(str)
    again_wanted = Signal(str, tuple)
    keep_wanted = Signal(str)

    def __init__(self, pictures: PicturePane, base: Callable[[], Path]) -> None:
        super().__init__()
        self._pictures, self._base = pictures, base
        self._found: LiveForecast | None = None
        self._picked_shots: tuple[str, ...] = ()
        self._newest = ""
        self._rows: tuple[MarkRow, ...] = ()
        self._opened: set[str] = set()
        self.view = FramesView()
        self.words = Elided("second")
        self.copy_button = button("Copy missing", "Copy frames as ranges (Ctrl+C)", self.copy, link=True)
        self.play_button = button(
            "Play", "Play the picked frames, or all of the shot that are in (Space)", self.play, link=True
        )
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setWidget(self.view)
        row = QHBoxLayout()
        row.addWidget(self.words, 1)
        row.addWidget(self.copy_button)
        row.addWidget(self.play_button)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addWidget(scroll, 1)
        column.addLayout(row)
        self.view.reading_wanted.connect(self._show_reading)
        self.view.group_reading_wanted.connect(self._show_group_reading)
        self.view.group_toggled.connect(self._toggle)
        self.view.frame_picked.connect(self._on_frame)
        self.view.range_picked.connect(lambda _shot, _frames: self._say())
        self.view.copy_wanted.connect(self.copy)
        self.view.play_wanted.connect(self.play)
        self.view.menu_wanted.connect(self._show_menu)

    def show_live_forecast(self, live: LiveForecast, picked: tuple[str, ...]) -> None:
        """Show what came."""
        self._found, self._picked_shots = live, picked
        self._rows = presenter.mark_rows(live)
        self._show_rows()
        self.view.pick_shots(picked)
        self._say()
        if self.view.picked is None and not self._pictures.playing:
            self._show_newest()

    def _show_rows(self) -> None:
        self.view.show_rows(by_sequence(self._rows, self._opened))

    def _toggle(self, group: str) -> None:
        """Show the shots of a sequence, or hide them."""
        self._opened ^= {group}
        self._show_rows()
        self._say()

    def _show_newest(self) -> None:
        """Show the frame that came last, while nobody looks at another."""
        live = self._found
        newest = None if live is None else presenter.newest_of(live, self._shot)
        if live is None or newest is None or newest.path == self._newest:
            return
        self._newest = newest.path
        words = presenter.frame_words(live, newest.shot, newest.frame)
        self._pictures.show_files([Shown(Path(newest.path), f"newest: {newest.shot}, frame {newest.frame}")], words)

    def show_alarm(self, alarm: Alarm) -> None:
        """Pick the frames that an alarm is of."""
        if alarm.shot and alarm.shot not in self._picked_shots:
            self.shot_wanted.emit(alarm.shot)
        if sequence_of(alarm.shot) not in self._opened and alarm.frames:
            self._opened.add(sequence_of(alarm.shot))
            self._show_rows()
        self.view.pick_frames(alarm.shot, alarm.frames)

    def _say(self) -> None:
        picked, live = self.view.picked_frames, self._found
        many = picked is not None and len(picked[1]) > 1
        enable(self.play_button, "" if self._some_in else "No frame is in yet.")
        self.copy_button.setText("Copy picked" if many else "Copy missing")
        enable(self.copy_button, "" if many or self.missing else "No frame is missing, and none is picked.")
        if live is None:
            self.words.setText("")
        elif picked is not None and many:
            self.words.setText(f"Picked of {picked[0]}: {presenter.ranges(picked[1])}")
        elif self.missing:
            self.words.setText(f"Missing of {self._shot}: {presenter.missing_words(live, self._shot)}")
        else:
            self.words.setText(f"Nothing of {self._shot} is missing.")

    @property
    def _shot(self) -> str:
        picked = self.view.picked_frames
        if picked is not None:
            return picked[0]
        rows = [row.shot for row in self._rows]
        return next((name for name in self._picked_shots if name in rows), rows[0] if rows else "")

    @property
    def _some_in(self) -> bool:
        """Whether a frame of the shot that is looked at is in."""
        live, shot = self._found, self._shot
        return live is not None and bool(shot) and live.snapshot.of(shot).count(FrameState.IN) > 0

    @property
    def missing(self) -> tuple[int, ...]:
        """Frames of the shot that is looked at which must still come."""
        live, shot = self._found, self._shot
        return live.snapshot.of(shot).missing if live is not None and shot else ()

    def copy(self) -> None:
        """Copy what is picked if that is more than one frame, and else what is missing of the shot."""
        picked = self.view.picked_frames
        many = picked is not None and len(picked[1]) > 1
        self.copy_frames(picked[1] if picked is not None and many else self.missing)

    def copy_frames(self, frames: tuple[int, ...]) -> None:
        """Copy frames as ranges; without any, what was copied before stays."""
        if frames:
            QGuiApplication.clipboard().setText(presenter.ranges(frames))

    def _copy_next(self, live: LiveForecast, shot: str) -> None:
        """Copy the missing frames, shared out so that all machines end together."""
        try:
            QGuiApplication.clipboard().setText(presenter.next_words(live, shot))
        except InputError as error:
            self._pictures.clear(error.message)

    def play(self) -> None:
        """Play the picked frames that are in, those of the whole shot if none are picked; or stop."""
        if self._pictures.playing:
            self._pictures.stop()
            return
        live, shot = self._found, self._shot
        if live is None or not shot:
            return
        picked = self.view.picked_frames or (shot, tuple(live.snapshot.of(shot).frames.tolist()))
        files = presenter.files_of(live, *picked)
        if not files:
            self._pictures.clear("None of these frames is in.")
            return
        rate = live.snapshot.project.rate_of(live.snapshot.project.shot(picked[0]))
        words = f"{presenter.ranges(picked[1])} of {picked[0]}, those that are in, at {rate:g} a second"
        self._pictures.play([Shown(path, text) for path, text in files], rate, words)

    def _show_reading(self, shot: str, frame: int, where: QPoint) -> None:
        if self._found is not None:
            show_tip(where, presenter.frame_words(self._found, shot, frame), self.view)

    def _show_group_reading(self, group: str, where: QPoint) -> None:
        shots = sum(sequence_of(row.shot) == group for row in self._rows)
        row = next((row for row in self.view.rows if row.group == group), None)
        if row is not None:
            show_tip(where, group_words(row, shots), self.view)

    def _on_frame(self, shot: str, frame: int) -> None:
        """Show a frame that was clicked, beside a trial of it or its neighbour."""
        live = self._found
        if live is None:
            return
        if shot not in self._picked_shots:
            self.shot_wanted.emit(shot)
        files = presenter.pictures_of(live, shot, frame, self._base())
        words = presenter.frame_words(live, shot, frame)
        if files:
            self._pictures.show_files([Shown(path, text) for path, text in files], words)
        else:
            self._pictures.clear(words)

    def _show_menu(self, where: QPoint) -> None:
        picked, live = self.view.picked_frames, self._found
        if picked is None or live is None:
            return
        shot, frames = picked
        menu = QMenu(self)
        menu.addAction("Copy as ranges", lambda: self.copy_frames(frames))
        menu.addAction("Play", self.play)
        menu.addAction("Render again", lambda: self.again_wanted.emit(shot, frames))
        menu.addSeparator()
        menu.addAction(
            f"Copy the finished frames of {shot}: must not be overwritten",
            lambda: self.copy_frames(live.snapshot.of(shot).of(FrameState.IN)),
        )
        menu.addAction(f"Copy what each machine renders next of {shot}", lambda: self._copy_next(live, shot))
        if any(again_mark.shot == shot for again_mark in live.snapshot.project.watching.again):
            menu.addAction(f"Keep the frames of {shot}", lambda: self.keep_wanted.emit(shot))
        menu.exec(where)
