"""Looks into the folders and logs of a film, again and again, and keeps what came. Files only; any one thread.

Nothing in a watched folder is ever written, moved or deleted. A look has a budget: of many new frames some are checked,
and the rest in the next look, so that what is known is shown early.
"""

import json
import time
from collections.abc import Iterable, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from pathlib import Path

from pemlo.core.arrivals.frame_check import Checked, check_frame, settings_differ
from pemlo.core.arrivals.log_reader import LogLine, LogReader, pattern_of
from pemlo.core.arrivals.place import place_of
from pemlo.core.arrivals.scan import SETTLED_S, Arrival, Remembered, Scan, scan
from pemlo.core.arrivals.shot_matcher import ShotMatcher
from pemlo.core.arrivals.store import Store
from pemlo.core.arrivals.store_rows import FrameRow
from pemlo.core.errors import FileError, PemloError
from pemlo.core.files.text_lines import first_lines
from pemlo.core.forecast.jobs import early_settings
from pemlo.core.progress import Monitor, Unwatched
from pemlo.core.project.project import Project
from pemlo.core.project.settings import FrameSettings, ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.timed_sizes import file_sizes
from pemlo.core.project.watching import LogFile
from pemlo.core.units import counted

BUDGET_S = 3.0  # of checking, in one look
CLOCK_OFF_S = 300.0  # a file that says it was written so much earlier or later than it came has another clock
HINT_UNMOUNTED = "If the folder is away, nothing is lost: what came is kept."


@dataclass(frozen=True)
class ScanResult:
    """What is known after a look.

    Attributes
    ----------
    rows : dict of str to tuple of FrameRow
        Of each shot, what came.
    writing : frozenset of (str, int)
        Frames whose files are still written, by shot and number.
    unchecked : int
        Files that are there and not yet checked.
    troubles : tuple of str
        What could not be read, in sentences.
    clocks : dict of str to float
        Machines whose files are dated otherwise than they came: by how many seconds.
    logs : tuple of str
        What each log gave, in a sentence.
    changed : bool
        Whether anything is other than in the look before.
    """

    rows: Mapping[str, tuple[FrameRow, ...]]
    writing: frozenset[tuple[str, int]]
    unchecked: int
    troubles: tuple[str, ...]
    clocks: Mapping[str, float]
    logs: tuple[str, ...]
    changed: bool


class FolderScanner:
    """Remembers what was there, so that only what is new is read.

    Parameters
    ----------
    root : path
        From where places and logs are meant.
    store : Store, optional
        Where it is kept; only in memory without.
    """

    def __init__(self, root: Path, store: Store | None = None) -> None:
        self.root, self.store = root, store
        self._rows: dict[str, FrameRow] = {} if store is None else {row.path: row for row in store.frames()}
        self._seen: dict[str, tuple[int, float]] = {}
        self._sighted: dict[str, float | None] = {}
        self._first = not self._rows
        self._off_s = CLOCK_OFF_S
        self._looked: float | None = None
        self._readers: dict[LogFile, LogReader] = {}
        self._logged: dict[tuple[str, int], LogLine] = {}
        self._clocks: dict[str, list[float]] = {}
        self._before: tuple[object, ...] = ()
        self._places: tuple[tuple[str, str], ...] = ()
        self._folders: dict[str, Remembered] = {}
        self._last: tuple[Project, Sequence[str], ScanResult] | None = None  # of a look that left nothing open

    def look(
        self,
        project: Project,
        now: float,
        monitor: Monitor | None = None,
        budget_s: float = BUDGET_S,
        slack_s: float = 0.0,
    ) -> ScanResult:
        """Look once.

        Parameters
        ----------
        project : Project
        now : float
            Seconds since 1970, by the clock of what renders.
        monitor : Monitor, optional
        budget_s : float
            How long new frames may be checked; infinity for all.
        slack_s : float
            How well `now` is known.

        Raises
        ------
        Cancelled
            From the monitor.
        """
        watch = monitor or Unwatched()
        self._off_s = max(CLOCK_OFF_S, slack_s)
        found, troubles, unread = self._scan(project, watch)
        logs, more, more_lines = self._read_logs(project)
        troubles += more
        if self._last is not None and not more_lines and all(one.unchanged for one in self._folders.values()):
            of, said, result = self._last
            if of is project and said == (*troubles, *unread, *logs):
                self._looked = now
                return replace(result, changed=False)
        looked_at = (*troubles, *unread, *logs)
        whose = ShotMatcher(project)
        fresh = [arrival for arrival in found if self._is_new(arrival)]
        fresh.sort(key=lambda arrival: arrival.modified)
        for arrival in fresh:
            self._sighted.setdefault(arrival.path, None if self._first else self._looked)
        writing: set[tuple[str, int]] = set()
        made, begun, left = [], time.monotonic(), 0
        for number, arrival in enumerate(fresh):
            if number and time.monotonic() - begun > budget_s:
                left = len(fresh) - number
                break
            watch.step(number / len(fresh), f"Checking frames: {number} of {len(fresh)}")
            shot = whose.shot(arrival)
            if shot is None:
                continue
            row = self._read(project, shot, arrival, now)
            if row is None:
                writing.add((shot.name, arrival.found.frame))
            else:
                made.append(row)
        for row in made:
            self._rows[row.path] = row
            self._sighted.pop(row.path, None)
        if made or more_lines:
            made += self._timed_by_logs()
        gone = self._gone(found, troubles, unread)
        self._seen = {arrival.path: (arrival.size, arrival.modified) for arrival in found}
        self._looked, self._first = now, False
        if self.store is not None and (made or gone):
            try:
                self.store.put(made, gone)
            except FileError as error:
                troubles.append(str(error))
        found_now = self._said(
            frozenset(writing), left, (*troubles, *whose.troubles()), logs, changed=bool(made or gone)
        )
        self._last = None if writing or left else (project, looked_at, found_now)
        return found_now

    def _scan(self, project: Project, monitor: Monitor) -> tuple[list[Arrival], list[str], list[str]]:
        places = {"": project.watching.place} if project.watching.place else {}
        places |= {shot.name: shot.place for shot in project.shots if shot.place}
        if tuple(places.items()) != self._places:
            self._places = tuple(places.items())
            self._forget_elsewhere(list(places.values()))
            self._folders = {pattern: Remembered() for pattern in places.values()}
        found: dict[str, Arrival] = {}
        troubles: list[str] = []
        unread: list[str] = []
        for name, pattern in places.items():
            try:
                seen: Scan = scan(place_of(pattern), self.root, monitor, self._folders[pattern])
            except ValueError as error:
                troubles.append(f"{error}.")
                continue
            troubles += seen.troubles
            unread += seen.unread
            for arrival in seen.arrivals:
                if name:  # a place of its own holds its own frames, whatever their names say
                    found[arrival.path] = replace(arrival, found=replace(arrival.found, shot=name))
                else:
                    found.setdefault(arrival.path, arrival)
        return list(found.values()), troubles, unread

    def _forget_elsewhere(self, patterns: list[str]) -> None:
        """Forget frames that came to other places than those of now."""
        inside = []
        for pattern in patterns:
            with suppress(ValueError):
                root = "/" if pattern.strip().startswith("/") else f"{str(self.root).rstrip('/')}/"
                inside.append((place_of(pattern), root))
        gone = [
            path
            for path in self._rows
            if not any(path.startswith(root) and place.read(path.removeprefix(root)) for place, root in inside)
        ]
        for path in gone:
            del self._rows[path]
        if gone and self.store is not None:
            with suppress(FileError):
                self.store.put((), gone)

    def _is_new(self, arrival: Arrival) -> bool:
        row = self._rows.get(arrival.path)
        return row is None or (row.size, row.modified) != (arrival.size, arrival.modified)

    def _read(self, project: Project, shot: Shot, arrival: Arrival, now: float) -> FrameRow | None:
        """Return what a file is; None while it may still be written."""
        settles = self._seen.get(arrival.path) == (arrival.size, arrival.modified) or now - arrival.modified > SETTLED_S
        early = early_settings(project, shot)
        settings = early or shot.settings
        base = FrameRow(
            arrival.path, shot.name, arrival.found.frame, arrival.found.layer, arrival.found.take, arrival.size,
            arrival.modified, self._ended(arrival, now), early=early is not None,
        )  # fmt: skip
        if arrival.size == 0:
            return base._replace(trouble="has no bytes", readable=False) if settles else None
        sizes = file_sizes(project.size_of(shot), settings.resolution_percent)
        checked = check_frame(Path(arrival.path), sizes[0], dict(project.watching.header_names), sizes[-1])
        if not checked.readable and not settles:
            return None
        return self._row(base, checked, settings, arrival, now)

    def _row(self, base: FrameRow, checked: Checked, settings: ShotSettings, arrival: Arrival, now: float) -> FrameRow:
        said = dict(checked.said or {})
        seconds = float(said.get("seconds", -1.0))
        machine = str(said.get("machine", ""))
        self._note_clock(machine, arrival, now)
        return base._replace(
            trouble=checked.trouble,
            readable=checked.readable,
            seconds=seconds,
            source="header" if seconds > 0 else "",
            machine=machine,
            settings=_settings_text(said, settings),
            differs="; ".join(filter(None, (settings_differ(said, settings), _not_read(checked.not_read)))),
            width=checked.width,
            height=checked.height,
            brightness=checked.brightness,
            noise=checked.noise,
            digest=checked.digest,
            memory_gib=float(said.get("memory_gib") or 0.0),
        )

    def _ended(self, arrival: Arrival, now: float) -> float:
        """Return when a file came: as it says, unless it came between two looks and says otherwise."""
        after = self._sighted.get(arrival.path)
        if after is not None and not after - self._off_s <= arrival.modified <= now + self._off_s:
            return (after + now) / 2
        return min(arrival.modified, now)

    def _note_clock(self, machine: str, arrival: Arrival, now: float) -> None:
        """Remember by how much a machine's files are dated otherwise than they came, while that is seen."""
        after = self._sighted.get(arrival.path)
        if arrival.modified > now + self._off_s or (after is not None and arrival.modified < after - self._off_s):
            self._clocks.setdefault(machine, []).append(arrival.modified - now)
        elif machine in self._clocks:
            self._clocks[machine].append(0.0)

    def _gone(self, found: Iterable[Arrival], troubles: list[str], unread: Sequence[str]) -> list[str]:
        """Forget files that are no longer there, unless their folder is away or could not be read to its end."""
        named = {arrival.path for arrival in found}
        gone = [path for path in self._rows if path not in named and not _under(path, unread)]
        if not gone:
            return []
        if not named and len(gone) > 1:
            troubles.append(f"All {counted(len(gone), 'frame')} that came are gone. {HINT_UNMOUNTED}")
            return []
        away = {folder for path in gone if not (folder := Path(path).parent).is_dir()}
        troubles += [f"The folder {folder.name} is gone. {HINT_UNMOUNTED}" for folder in sorted(away)]
        gone = [path for path in gone if Path(path).parent not in away]
        for path in gone:
            del self._rows[path]
        return gone

    def _read_logs(self, project: Project) -> tuple[tuple[str, ...], list[str], bool]:
        """Read on in the logs; return what each gave, what is wrong with them, and whether there was more."""
        said, troubles, more = [], [], False
        self._readers = {log: reader for log, reader in self._readers.items() if log in project.watching.logs}
        for log in project.watching.logs:
            path = self.root / log.path
            try:
                reader = self._readers.get(log)
                if reader is None:
                    lines = first_lines(path)
                    reader = LogReader(path, [pattern_of(example, lines) for example in log.examples])
                    self._readers[log] = reader
                lines_read = reader.read_on()
            except PemloError as error:
                troubles.append(str(error))
                continue
            more = more or bool(lines_read)
            for line in lines_read:
                self._logged[line.shot, line.frame] = line
            long = f"; {counted(reader.too_long, 'line')} too long to be read" if reader.too_long else ""
            said.append(f"{log.path}: {counted(reader.frames_read, 'frame')}{long}")
        return tuple(said), troubles, more

    def _timed_by_logs(self) -> list[FrameRow]:
        """Return rows whose time a log says and their headers do not, put right."""
        changed = []
        for path, row in self._rows.items():
            if row.source == "header":
                continue
            line = self._logged.get((row.shot, row.frame)) or self._logged.get(("", row.frame))
            if line is None or line.seconds is None or (row.seconds == line.seconds and row.source == "log"):
                continue
            timed = row._replace(seconds=line.seconds, source="log", machine=row.machine or line.machine)
            timed = timed._replace(memory_gib=line.memory_gib or row.memory_gib)
            if line.samples and row.settings:
                settings = settings_of(row.settings)
                timed = timed._replace(differs=settings_differ({"samples": int(line.samples)}, settings))
            self._rows[path] = timed
            changed.append(timed)
        return changed

    def _said(
        self,
        writing: frozenset[tuple[str, int]],
        left: int,
        troubles: tuple[str, ...],
        logs: tuple[str, ...],
        *,
        changed: bool,
    ) -> ScanResult:
        rows: dict[str, list[FrameRow]] = {}
        for row in self._rows.values():
            rows.setdefault(row.shot, []).append(row)
        clocks = {
            machine: sorted(off)[len(off) // 2]
            for machine, off in self._clocks.items()
            if len(off) > 2 and abs(sorted(off)[len(off) // 2]) > self._off_s
        }
        state = (writing, left, troubles, tuple(clocks), logs)
        changed = changed or state != self._before
        self._before = state
        return ScanResult(
            {name: tuple(mine) for name, mine in rows.items()}, writing, left, troubles, clocks, logs, changed
        )


def _not_read(words: str) -> str:
    return f"part of its header cannot be read: {words}" if words else ""


def _under(path: str, unread: Sequence[str]) -> bool:
    """Whether a file could not be looked at, or a folder that it lies in."""
    return any(path == one or path.startswith(f"{one.rstrip('/')}/") for one in unread)


def _settings_text(said: Mapping[str, object], planned: ShotSettings) -> str:
    """Return the settings that a frame was rendered with, as JSON: what its header says, else what was planned."""
    fields = dict(planned.frame_fields())
    known = {name: value for name, value in said.items() if name in fields}
    try:
        return FrameSettings.model_validate({**fields, **known}).model_dump_json()
    except ValueError:
        return FrameSettings.model_validate(fields).model_dump_json()


def settings_of(text: str) -> FrameSettings:
    """Return settings from their JSON."""
    return FrameSettings.model_validate(json.loads(text))
