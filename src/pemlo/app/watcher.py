"""Watches the folders into which frames arrive, in the background. Lives on the GUI thread; the looks are jobs.

Changes come from the file system where it reports them, and from a look every few seconds where it does not.
"""

import threading
import time
from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QFileSystemWatcher, QObject, QTimer, Signal

from pemlo.app.document import Document
from pemlo.app.jobs import Jobs
from pemlo.app.picture_places import base_folder
from pemlo.core.errors import FileError
from pemlo.core.progress import Monitor
from pemlo.core.project.project import Project

if TYPE_CHECKING:
    from pemlo.core.arrivals.alarms import Alarm
    from pemlo.core.arrivals.arrival_snapshot import ArrivalSnapshot
    from pemlo.core.arrivals.folder_scanner import FolderScanner
    from pemlo.core.arrivals.live_forecast import Known, LiveForecast
    from pemlo.core.arrivals.store import FinishRow, Store
    from pemlo.core.cost.fit_input import FitInput
    from pemlo.core.film.film import Film

WATCH = "watch"
EVERY_MS, SOON_MS = 2000, 120
MOST_FOLDERS = 300  # that are reported by the file system; others are looked into all the same
REST_TIMES = 2  # as long as a look took, it rests at least
REST_S = 15.0  # nothing new: what is said is worked out anew so often, as time goes by


@dataclass(frozen=True)
class Watched:
    """What one look found.

    Attributes
    ----------
    live_forecast : LiveForecast
    finishes : tuple of FinishRow
        How the finish moved.
    fresh : tuple of Alarm
        That were not there before.
    page : str
        Where the status page was written; empty if it was not.
    folders : tuple of str
        Into which frames arrive.
    """

    live_forecast: "LiveForecast"
    finishes: "tuple[FinishRow, ...]"
    fresh: "tuple[Alarm, ...]"
    page: str
    folders: tuple[str, ...]


class _Place:
    """What is remembered of the folders of one document, between looks; one look at a time."""

    def __init__(self, root: Path, project_file: Path | None) -> None:
        self._root, self._file = root, project_file
        self._lock = threading.Lock()
        self._scanner: FolderScanner | None = None
        self._store: Store | None = None
        self._known: Known | None = None
        self._from_frames: tuple[FitInput, Known] | None = None
        self._finishes: list[FinishRow] = []
        self._alarms: set[tuple[str, ...]] | None = None
        self._last: tuple[Watched, object, float] | None = None

    def look(self, film: "Film", wall: float, monitor: Monitor) -> Watched:
        """Look once, and return what is known then."""
        with self._lock:
            return self._look(film, wall, monitor)

    def _look(self, film: "Film", wall: float, monitor: Monitor) -> Watched:
        from pemlo.core.arrivals.arrival_snapshot import arrival_snapshot  # noqa: PLC0415 - heavy to load
        from pemlo.core.arrivals.farm_clock import now_in  # noqa: PLC0415 - as above
        from pemlo.core.arrivals.live_forecast import live_forecast  # noqa: PLC0415 - as above

        scanner, project = self._opened(), film.project
        now, slack = now_in(project, self._root, wall)
        look = scanner.look(project, now.timestamp(), monitor, slack_s=slack)
        if self._last is not None:
            before, of, at = self._last
            if not look.changed and of == project and wall - at < REST_S:
                return before
        at = (now - project.start).total_seconds()
        known = self._what_is_known(film, None, monitor)
        snapshot = arrival_snapshot(project, look, at, known.shortest_gaps if known else None)
        known = known or self._what_is_known(film, snapshot, monitor)
        best = max((one.chance for one in self._finishes), default=None)
        live = live_forecast(snapshot, known, best, monitor=monitor)
        self._keep_finish(live)
        live, page = self._with_page(project, live)
        keys = {alarm.key for alarm in live.alarms}
        fresh = tuple(alarm for alarm in live.alarms if self._alarms is not None and alarm.key not in self._alarms)
        self._alarms = keys | (self._alarms or set())
        folders = tuple(sorted({str(Path(row.path).parent) for rows in look.rows.values() for row in rows}))
        watched = Watched(live, tuple(self._finishes), fresh, page, folders)
        self._last = watched, project, wall
        return watched

    def _opened(self) -> "FolderScanner":
        from pemlo.core.arrivals.folder_scanner import FolderScanner  # noqa: PLC0415 - as above
        from pemlo.core.arrivals.store import Store, store_path  # noqa: PLC0415 - as above

        if self._scanner is None:
            if self._file is not None:
                with suppress(FileError):  # nothing is kept where nothing can be written: it is watched all the same
                    self._store = Store(store_path(self._file))
            self._scanner = FolderScanner(self._root, self._store)
            if self._store is not None:
                self._finishes = list(self._store.finishes())
        return self._scanner

    def _what_is_known(self, film: "Film", snapshot: "ArrivalSnapshot | None", monitor: Monitor) -> "Known | None":
        """Return what is known before the first frame: from trials, or from frames that were in at the first look."""
        from pemlo.core.arrivals.live_forecast import Known, know  # noqa: PLC0415 - as above
        from pemlo.core.film.values import FIT  # noqa: PLC0415 - as above

        fit, before = film.get(FIT, film.fit_input, monitor), self._known
        if fit.known:
            same = before is not None and before.fit is fit and before.project is film.project
            self._known = before if same else Known(film.project, fit, film.draws)
            return self._known
        if self._from_frames is not None and self._from_frames[0] == film.fit_input:
            made = self._from_frames[1]
            return replace(made, project=film.project.replace(trials=made.project.trials))
        made_now = None if snapshot is None else know(film.project, snapshot, monitor=monitor)
        if made_now is not None:
            self._from_frames = film.fit_input, made_now
        return made_now

    def _keep_finish(self, live: "LiveForecast") -> None:
        from pemlo.core.arrivals.store import FinishRow  # noqa: PLC0415 - as above

        if live.finish_h is None or live.probability is None or not live.snapshot.done_count:
            return
        if self._finishes and self._finishes[-1].frames == live.snapshot.done_count:
            return
        finish = live.finish_h
        row = FinishRow(
            live.snapshot.now, live.snapshot.done_count, finish.low, finish.middle, finish.high, live.probability
        )
        self._finishes.append(row)
        if self._store is not None:
            with suppress(FileError):
                self._store.put_finish(row)

    def _with_page(self, project: Project, live: "LiveForecast") -> "tuple[LiveForecast, str]":
        """Write the status page; where it cannot be, that is one more thing that is wrong."""
        folder = project.watching.status_folder
        if not folder:
            return live, ""
        from pemlo.core.arrivals.alarms import Alarm  # noqa: PLC0415 - as above
        from pemlo.handover.status_page import write_status_page  # noqa: PLC0415 - as above

        try:
            return live, str(write_status_page(self._root / folder, live, tuple(self._finishes)))
        except FileError as error:
            wrong = Alarm("folder", error.message, error.hint)
            return replace(live, alarms=(*live.alarms, wrong)), ""

    def close(self) -> None:
        """Let go of the store, once no look is under way."""
        with self._lock:
            if self._store is not None:
                self._store.close()
            self._store = self._scanner = None


class Watcher(QObject):
    """Looks again and again while a film says where its frames arrive.

    Attributes
    ----------
    wall : callable
        Gives the present moment, seconds since 1970.
    last : Watched or None
        What the last look found.
    paused : bool

    Signals
    -------
    looked(Watched)
        What the last look found.
    changed()
        Watching began or ended.
    """

    looked = Signal(object)
    changed = Signal()

    def __init__(self, document: Document, jobs: Jobs, film: "Callable[[], Film]") -> None:
        super().__init__()
        self._document, self._jobs, self._film = document, jobs, film
        self.wall: Callable[[], float] = time.time
        self.last: Watched | None = None
        self.paused = False
        self._place: _Place | None = None
        self._looking = False
        self._began = 0.0
        self._next = QTimer(self)
        self._next.setSingleShot(True)
        self._next.timeout.connect(self.look)
        self._files = QFileSystemWatcher(self)
        self._files.directoryChanged.connect(self._on_reported)
        document.changed.connect(self._on_changed)
        document.replaced.connect(self.forget)
        document.kept.connect(self._on_kept)
        jobs.failed.connect(self._on_ended)
        jobs.stopped.connect(self._on_stopped)

    @property
    def wanted(self) -> bool:
        """Whether the film says where its frames arrive."""
        project = self._document.project
        return bool(project.watching.place) or any(shot.place for shot in project.shots)

    @property
    def on(self) -> bool:
        """Whether it is watched."""
        return self.wanted and not self.paused

    def pause(self, *, paused: bool) -> None:
        """Stop watching, or go on."""
        self.paused = paused
        if paused:
            self._next.stop()
            self._jobs.cancel(WATCH)
            self._looking = False
        else:
            self.look()
        self.changed.emit()

    def look(self) -> None:
        """Look now; soon again if a look is under way."""
        if not self.on:
            return
        if self._looking:
            self._next.start(SOON_MS)
            return
        if self._place is None:
            path = self._document.path
            self._place = _Place(base_folder(path), path)
        place, film = self._place, self._film()
        self._looking, self._began = True, time.monotonic()
        self._jobs.submit(
            WATCH,
            "Looking at the frames that came",
            lambda monitor: place.look(film, self.wall(), monitor),
            self._on_looked,
            quiet=True,
            watching=True,
            again=self.look,
        )

    def _on_looked(self, watched: Watched) -> None:
        self._looking = False
        self._listen(watched.folders)
        news = watched is not self.last
        self.last = watched
        if news:
            self.looked.emit(watched)
        unchecked = watched.live_forecast.snapshot.look.unchecked
        took_ms = round(1000 * (time.monotonic() - self._began))
        self._next.start(SOON_MS if unchecked else max(EVERY_MS, REST_TIMES * took_ms))

    def _listen(self, folders: Sequence[str]) -> None:
        """Have the file system report changes of folders."""
        new = set(folders[:MOST_FOLDERS]) - set(self._files.directories())
        if new:
            self._files.addPaths(sorted(new))

    def _on_reported(self, _folder: str) -> None:
        if self.on and (not self._next.isActive() or self._next.remainingTime() > SOON_MS):
            self._next.start(SOON_MS)

    def _on_changed(self, fields: frozenset[str]) -> None:
        if fields - {"title"} and self.on:
            if "watching" in fields:
                self.changed.emit()
            self._next.start(SOON_MS)

    def _on_ended(self, key: str, _error: Exception) -> None:
        if key == WATCH:
            self._looking = False
            self._next.start(EVERY_MS)

    def _on_stopped(self, key: str) -> None:
        if key == WATCH:
            self.pause(paused=True)

    def _on_kept(self) -> None:
        """Watch from the file's new place, if it has another."""
        if self._place is not None and self._place._file != self._document.path:  # noqa: SLF001 - its own helper
            self.forget()

    def forget(self) -> None:
        """Forget what was watched: another film is here."""
        self._next.stop()
        self._jobs.cancel(WATCH)
        self._looking, self.paused = False, False
        if self._files.directories():
            self._files.removePaths(self._files.directories())
        if self._place is not None:
            threading.Thread(target=self._place.close, daemon=True).start()  # a look may still be under way
        self._place = self.last = None
        self.changed.emit()
        if self.on:
            self._next.start(SOON_MS)

    def close(self) -> None:
        """Stop for good; called once the jobs have ended."""
        self._next.stop()
        self.paused = True
        if self._place is not None:
            self._place.close()
            self._place = None
