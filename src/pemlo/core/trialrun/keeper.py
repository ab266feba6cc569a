"""Keeps one command that renders a frame: starts it, measures it, ends it with all its children. A program of its own.

It reads one line of JSON from standard input (see `Order`), and ends the command as soon as that input ends: so nothing
that was started outlives Pemlo, however that ends. What the command writes goes into a bounded file; what was measured
is written beside it, whole, and said on standard output. It imports the standard library and psutil only: a hundredth
of a second later a frame begins.

Processes that leave their parent come to it (a "subreaper" of Linux, see prctl(2)), so that their time counts and none
is left behind. The frame has ended when all of them have, or when the command has ended, the picture is there, and
those that stayed have done nothing for a while.
"""

import ctypes
import json
import os
import shutil
import signal
import stat
import subprocess
import sys
import threading
import time
from contextlib import suppress
from dataclasses import asdict, dataclass, field
from pathlib import Path
from typing import Any

import psutil

_PR_SET_PDEATHSIG, _PR_SET_CHILD_SUBREAPER = 1, 36
_LOOK_S = (0.02, 0.1)  # between two looks at the processes, at first and later
_LOOK_SHARE = 0.05  # of one core at most, for looking
_SETTLED_S = 3.0  # without work, after which what stayed behind is no part of the frame
CLOCKS_DIFFER_S = 2.0  # of file servers
_WAITED_S = 60.0  # for a picture of which there is nothing yet
_BUSY = 0.02  # of one core
HEAD_BYTES, TAIL_BYTES = 512 * 1024, 512 * 1024
_CHUNK = 1 << 16
RECORD = "run.json"
OUTPUT = "output.txt"


@dataclass
class Measured:
    """What was measured of a command.

    Attributes
    ----------
    seconds : float
        From its start to the end of its work, on a clock that stands while the computer sleeps.
    slept_seconds : float
        How long the computer slept meanwhile.
    processor_seconds : float
        Of all its processes.
    memory_bytes : int
        The most that all of them held together.
    read_bytes, written_bytes : int
        From and to disks.
    other_load : float
        Share of all processors that other programs took, 0 to 1.
    code : int
        Exit code; negative for the signal that ended it.
    ended : str
        Why it was ended, if it was: ``limit``, ``stop``; ``not started`` with the reason in `trouble`.
    output_bytes : int
        What it wrote, of which the beginning and the end are kept.
    left_behind : int
        Processes that had to be ended after the frame.
    began, finished : float
        Seconds since 1970.
    """

    seconds: float = 0.0
    slept_seconds: float = 0.0
    processor_seconds: float = 0.0
    memory_bytes: int = 0
    read_bytes: int = 0
    written_bytes: int = 0
    other_load: float = 0.0
    code: int | None = None
    ended: str = ""
    trouble: str = ""
    output_bytes: int = 0
    left_behind: int = 0
    began: float = 0.0
    finished: float = 0.0


@dataclass
class Order:
    """What is to be run.

    Attributes
    ----------
    words : list of str
    folder : str
    environment : dict
        All of it.
    picture : str
        What the command should write.
    kept_as : str
        Where that is moved to at the end, if it is another place.
    limit_s : float, optional
    into : str
        Folder for the output and the record.
    about : dict
        Is written into the record as it is.
    """

    words: list[str]
    folder: str
    environment: dict[str, str]
    picture: str
    kept_as: str
    into: str
    limit_s: float | None = None
    about: dict[str, Any] = field(default_factory=dict)


class Keeper:
    """Keeps one command. The main thread waits for processes to end; the others look, read and listen."""

    def __init__(self, order: Order) -> None:
        self._order, self.measured = order, Measured()
        self._main_pid = 0
        self._main_end = self._last_work = 0.0
        self._over = threading.Event()
        self._head, self._tail = bytearray(), bytearray()

    def run(self) -> Measured:
        """Run the command to its end."""
        libc = ctypes.CDLL(None, use_errno=True)
        libc.prctl(_PR_SET_CHILD_SUBREAPER, 1, 0, 0, 0)
        reading, writing = os.pipe()
        measured, busy = self.measured, _busy_seconds()
        own, disk = _own_seconds(), _disk_bytes()
        measured.began = time.time()
        start, boot = time.monotonic(), time.clock_gettime(time.CLOCK_BOOTTIME)
        try:
            process = subprocess.Popen(  # noqa: S603 - the person's own command; see `allowed.py`
                self._order.words,
                cwd=self._order.folder,
                env=self._order.environment,
                stdin=subprocess.DEVNULL,
                stdout=writing,
                stderr=writing,
                start_new_session=True,
                # Without a keeper nobody would end it: it goes with the keeper.
                preexec_fn=lambda: libc.prctl(_PR_SET_PDEATHSIG, signal.SIGKILL, 0, 0, 0),  # noqa: PLW1509 - one thread
            )
        except OSError as error:
            measured.ended, measured.trouble = "not started", f"{error.strerror or error}: {error.filename or ''}"
            return measured
        os.close(writing)
        self._main_pid = process.pid
        self._last_work = start
        threads = [
            threading.Thread(target=self._read, args=(reading,), daemon=True),
            threading.Thread(target=self._listen, daemon=True),
            threading.Thread(target=self._look, args=(start,), daemon=True),
        ]
        for thread in threads:
            thread.start()
        last = self._wait()
        self._over.set()
        threads[0].join(0.5)
        wall = time.monotonic() - start
        measured.seconds = self._end(last) - start
        measured.slept_seconds = max(0.0, time.clock_gettime(time.CLOCK_BOOTTIME) - boot - wall)
        times = os.times()
        measured.processor_seconds = times.children_user + times.children_system
        measured.read_bytes, measured.written_bytes = (
            max(0, after - before) for after, before in zip(_disk_bytes(), disk, strict=True)
        )
        taken = _busy_seconds() - busy - measured.processor_seconds - (_own_seconds() - own)
        measured.other_load = min(1.0, max(0.0, taken / (wall * (os.cpu_count() or 1))))
        measured.finished = time.time()
        process.returncode = measured.code  # it was waited for here, with all others
        return measured

    def _wait(self) -> float:
        """Wait until no process is left, and return when the last one ended."""
        last = time.monotonic()
        while True:
            try:
                pid, status, _ = os.wait4(-1, 0)
            except ChildProcessError:
                return last
            last = time.monotonic()
            if pid == self._main_pid:
                self._main_end = last
                self.measured.code = os.waitstatus_to_exitcode(status)

    def _end(self, last: float) -> float:
        """Return when the frame was done: with the command, or with the last work that was done after it."""
        if self.measured.left_behind:
            return max(self._main_end, min(self._last_work, last))
        return last

    def _look(self, start: float) -> None:
        """Look at the processes again and again: their memory, whether the time is over, whether they still work."""
        processor, at, pause = 0.0, start, _LOOK_S[0]
        while not self._over.is_set():
            began = time.monotonic()
            tree = _tree()
            self._note_memory(tree)
            spent = _seconds_of(tree) + sum(os.times()[2:4])
            if spent - processor > _BUSY * max(began - at, 1e-3):
                self._last_work = began
            processor, at = spent, began
            limit = self._order.limit_s
            if limit is not None and began - start > limit and not self.measured.ended:
                self.end("limit")
            if self._main_end and tree and self._is_settled(began):
                self.measured.left_behind = len(tree)
                _kill_all()
            took = time.monotonic() - began
            pause = max(pause * 1.02 if pause < _LOOK_S[1] else pause, took / _LOOK_SHARE)
            until = pause if limit is None else min(pause, max(0.0, start + limit - time.monotonic()) + 0.001)
            self._over.wait(until)

    def _is_settled(self, now: float) -> bool:
        """Whether nothing is worked on any more; a picture that still changes is work."""
        with suppress(OSError):
            changed = Path(self._order.picture).stat()
            if changed.st_mtime >= self.measured.began - 1:
                quiet = time.time() - changed.st_mtime
                if now - quiet > self._main_end:
                    self._last_work = max(self._last_work, now - quiet)
                return min(quiet, now - max(self._last_work, self._main_end)) > _SETTLED_S
        return now - max(self._last_work, self._main_end) > _WAITED_S

    def _note_memory(self, tree: list[psutil.Process]) -> None:
        """Note the most that all held: never less than the peak of any one; of several, shared parts count once."""
        for process in tree:
            with suppress(psutil.Error, OSError, ValueError, StopIteration):
                status = Path(f"/proc/{process.pid}/status").read_text(encoding="ascii", errors="replace")
                peak = next(line for line in status.splitlines() if line.startswith("VmHWM"))
                self.measured.memory_bytes = max(self.measured.memory_bytes, 1024 * int(peak.split()[1]))
        if len(tree) > 1:
            total = 0
            for process in tree:
                with suppress(psutil.Error, OSError):
                    total += process.memory_full_info().pss
            self.measured.memory_bytes = max(self.measured.memory_bytes, total)

    def _read(self, reading: int) -> None:
        """Take in what the command writes, as fast as it comes, and keep its beginning and its end."""
        while chunk := os.read(reading, _CHUNK):
            self.measured.output_bytes += len(chunk)
            space = HEAD_BYTES - len(self._head)
            self._head += chunk[:space]
            self._tail += chunk[max(0, space) :]
            if len(self._tail) > 2 * TAIL_BYTES:
                del self._tail[:-TAIL_BYTES]

    def _listen(self) -> None:
        """End the command when the input ends: then nobody waits for it."""
        while sys.stdin.buffer.readline():
            pass
        self.end("stop")

    def end(self, why: str) -> None:
        """End the command with all its children, at once."""
        self.measured.ended = self.measured.ended or why
        _kill_all()

    def output(self) -> bytes:
        """Return what it wrote: all, or its beginning and its end."""
        cut = self.measured.output_bytes - len(self._head) - min(len(self._tail), TAIL_BYTES)
        gap = f"\n… {cut} bytes are left out here …\n".encode() if cut > 0 else b""
        return bytes(self._head) + gap + bytes(self._tail[-TAIL_BYTES:])


def _tree() -> list[psutil.Process]:
    try:
        return list(psutil.Process().children(recursive=True))
    except psutil.Error:
        return []


def _kill_all() -> None:
    """Kill every descendant, again until none is born any more."""
    for _ in range(50):
        tree = [process for process in _tree() if process.is_running()]
        alive = False
        for process in tree:
            with suppress(psutil.Error):
                if process.status() != psutil.STATUS_ZOMBIE:
                    alive = True
                    process.kill()
        if not alive:
            return
        time.sleep(0.01)


def _seconds_of(tree: list[psutil.Process]) -> float:
    total = 0.0
    for process in tree:
        with suppress(psutil.Error):
            times = process.cpu_times()
            total += times.user + times.system
    return total


def _busy_seconds() -> float:
    times = psutil.cpu_times()
    return float(sum(times) - times.idle - getattr(times, "iowait", 0.0) - getattr(times, "guest", 0.0))


def _own_seconds() -> float:
    times = os.times()
    return times.user + times.system


def _disk_bytes() -> tuple[int, int]:
    """Return what this process and all that ended under it read from and wrote to disks."""
    try:
        lines = Path("/proc/self/io").read_text(encoding="ascii").splitlines()
        said = dict(line.split(": ") for line in lines)
        return int(said["read_bytes"]), int(said["write_bytes"])
    except (OSError, ValueError, KeyError):
        return 0, 0


def write_record(folder: Path, about: dict[str, Any], measured: Measured) -> None:
    """Write what was measured, whole or not at all."""
    text = json.dumps({**about, "measured": asdict(measured)}, indent=1)
    path, before = folder / RECORD, folder / f".{RECORD}.new"
    with before.open("w", encoding="utf-8") as file:
        file.write(text)
        file.flush()
        os.fsync(file.fileno())
    before.replace(path)


def keep_picture(order: Order, began: float) -> None:
    """Move a picture that the command wrote to where it is kept; what was there before the run stays."""
    landing, kept = Path(order.picture), Path(order.kept_as)
    if landing == kept:
        return
    with suppress(OSError, shutil.Error):
        state = landing.lstat()
        if stat.S_ISREG(state.st_mode) and state.st_mtime >= began - CLOCKS_DIFFER_S and not kept.exists():
            shutil.move(landing, kept)


def main() -> int:
    """Read one order, carry it out, and say what was measured."""
    order = Order(**json.loads(sys.stdin.buffer.readline()))
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    keeper = Keeper(order)
    measured = keeper.run()
    folder = Path(order.into)
    if measured.ended != "stop":  # what was stopped is nothing that could be taken in later
        keep_picture(order, measured.began)
        (folder / OUTPUT).write_bytes(keeper.output())
        write_record(folder, order.about, measured)
    with suppress(OSError, ValueError):
        sys.stdout.write(json.dumps(asdict(measured)) + "\n")
        sys.stdout.flush()
    os._exit(0)  # the thread that listens would wait for more


if __name__ == "__main__":
    sys.exit(main())
