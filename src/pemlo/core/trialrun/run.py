"""Runs one frame by a person's command, in folders of its own, and waits for what was measured. A thread; processes.

Nothing is ever overwritten: each run has a folder that was not there before, and a picture of its own name.
"""

import json
import os
import queue
import re
import shutil
import threading
import time
from contextlib import suppress
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from pemlo.core.errors import FileError, InputError, PemloError, Problem
from pemlo.core.foreign import shown
from pemlo.core.processes import command_of, started
from pemlo.core.progress import Cancelled, Monitor
from pemlo.core.project.render_ways import RenderWay
from pemlo.core.trialrun.keeper import HEAD_BYTES, OUTPUT, RECORD, TAIL_BYTES, Measured, Order
from pemlo.core.trialrun.template import FilledCommand, FrameTask, filled
from pemlo.core.units import format_duration

RUNS = "runs"
_LOOK_S = 0.05
_MOST_GUARDED = 20_000  # files below what must not be touched
_MOST_NAMES = 10_000
_MOST_OUTPUT = 2 * (HEAD_BYTES + TAIL_BYTES)


@dataclass(frozen=True)
class TrialRun:
    """A frame that is about to be rendered, or was.

    Attributes
    ----------
    task : FrameTask
    way : RenderWay
    machine : str
        Which ran it, by its name in the brief.
    elsewhere : bool
        Whether a prefix sent it to another computer: then only the clock says something of it.
    command : FilledCommand
    folder : path
        Its own: for the record and what it wrote.
    """

    task: FrameTask
    way: RenderWay
    machine: str
    elsewhere: bool
    command: FilledCommand
    folder: Path

    @property
    def landing(self) -> Path:
        """Where the renderer puts its picture."""
        return Path(self.command.picture)

    @property
    def picture(self) -> Path:
        """Where its picture is in the end: a place that is always the same is free again for the next frame."""
        pictures = self.folder.absolute().parent.parent
        if self.landing.is_relative_to(pictures):
            return self.landing
        return pictures / f"{self.folder.name}{self.landing.suffix}"

    def about(self) -> dict[str, Any]:
        """Return what the record says of it beside what was measured."""
        task = self.task
        return {
            "shot": task.shot,
            "frame": task.frame,
            "size": list(task.size),
            "settings": task.settings.model_dump(mode="json"),
            "region": None if task.region is None else list(task.region),
            "seed": task.seed,
            "repeat": task.repeat,
            "scene": task.scene,
            "way": self.way.model_dump(mode="json"),
            "machine": self.machine,
            "elsewhere": self.elsewhere,
            "command": list(self.command.words),
            "picture": str(self.picture),
        }


def prepared(way: RenderWay, task: FrameTask, machine: str, pictures: Path, base: Path) -> TrialRun:
    """Make the folders of a run and fill its command in.

    Parameters
    ----------
    way : RenderWay
    task : FrameTask
    machine : str
        One of the way's machines, or the name of this computer.
    pictures : path
        Folder of the project's pictures; made if it is not there.
    base : path
        Folder of the project, where the command begins unless the way says where.

    Raises
    ------
    InputError
        If the way cannot be filled in, or would write where nothing may be touched.
    FileError
        If there is no place, or the picture is there already.
    """
    dry = planned(way, task, machine, pictures, base)
    try:
        folder = _own_folder(
            pictures / RUNS, f"{file_name(task.shot)}-{task.frame:04d}-{time.strftime('%Y%m%d-%H%M%S')}"
        )
    except OSError as error:
        words = f"There is no place for pictures: {pictures} cannot be made ({error.strerror})."
        raise FileError(words, "Save the project to a folder that may be written to.") from error
    command = filled(way, task, str(pictures.absolute() / folder.name), machine)
    command = FilledCommand(command.words, dry.folder, command.environment, _whole(command.picture, dry.folder))
    _see_that_it_may_write(way, Path(command.picture), base)
    if Path(command.picture).exists():
        raise FileError(
            f"{shown(command.picture)} exists already, and nothing is overwritten.",
            "Put {out} where the command names its picture.",
        )
    prefix = next((one.prefix for one in way.machines if one.machine == machine), "")
    return TrialRun(task, way, machine, bool(prefix), command, folder)


def planned(way: RenderWay, task: FrameTask, machine: str, pictures: Path, base: Path) -> FilledCommand:
    """Return a command as it would be run, with a name in place of the picture's own; nothing is made."""
    name = f"{file_name(task.shot)}-{task.frame:04d}-…"
    command = filled(way, task, str(pictures.absolute() / name), machine)
    folder = _whole(command.folder, str(base.absolute())) if command.folder else str(base.absolute())
    return FilledCommand(command.words, folder, command.environment, _whole(command.picture, folder))


def _whole(path: str, folder: str) -> str:
    return str(Path(folder) / Path(path).expanduser())


def file_name(shot: str) -> str:
    """Return what the files of a shot are called: its name, without what would lead into another folder.

    Examples
    --------
    >>> file_name("040 night"), file_name("../../x"), file_name("/")
    ('040_night', 'x', 'shot')
    """
    return re.sub(r"[^\w-]+", "_", shot).strip("_")[:60] or "shot"


def _own_folder(runs: Path, name: str) -> Path:
    """Make a folder that was not there before, also when others make theirs in the same second."""
    runs.mkdir(parents=True, exist_ok=True)
    for number in range(_MOST_NAMES):
        folder = runs / f"{name}-{number:03d}"
        with suppress(FileExistsError):
            folder.mkdir()
            return folder
    raise FileError(f"There are too many runs in {runs}.", "Remove old ones.")


def _see_that_it_may_write(way: RenderWay, picture: Path, base: Path) -> None:
    """Refuse a picture below a folder that must not be touched."""
    real = Path(os.path.realpath(picture))
    for folder in _untouched(way, base):
        if real.is_relative_to(os.path.realpath(folder)):
            raise InputError(
                [Problem(f"Way {way.name}", f"would write {shown(str(picture))} below {shown(str(folder))}")],
                "That must never be touched; put {out} where the command names its picture.",
            )


def _untouched(way: RenderWay, base: Path) -> tuple[Path, ...]:
    return tuple(base / Path(text).expanduser() for text in way.untouched if text.strip())


def guarded_files(way: RenderWay, base: Path) -> dict[str, tuple[int, int]]:
    """Return size and time of writing of the files that must not be touched, of at most some thousands."""
    found: dict[str, tuple[int, int]] = {}
    for top in _untouched(way, base):
        for number, (folder, _, names) in enumerate(os.walk(top)):
            if number >= _MOST_GUARDED:
                return found
            for name in names:
                path = Path(folder) / name
                with suppress(OSError):
                    state = path.lstat()
                    found[str(path)] = state.st_size, state.st_mtime_ns
                if len(found) >= _MOST_GUARDED:
                    return found
    return found


def touched(before: dict[str, tuple[int, int]], after: dict[str, tuple[int, int]]) -> tuple[str, ...]:
    """Return files that were changed, made or removed where nothing may be touched."""
    return tuple(sorted(name for name in {*before, *after} if before.get(name) != after.get(name)))


def carried_out(run: TrialRun, monitor: Monitor) -> tuple[Measured, str]:
    """Run a command to its end, and return what was measured and what it wrote.

    Parameters
    ----------
    run : TrialRun
    monitor : Monitor

    Raises
    ------
    PemloError
        If it cannot be started.
    Cancelled
        From the monitor; by then all its processes are gone.
    """
    order = Order(
        list(run.command.words),
        run.command.folder,
        {**os.environ, **dict(run.command.environment)},
        run.command.picture,
        str(run.picture),
        str(run.folder),
        run.way.time_limit_s,
        run.about(),
    )
    try:
        process = started(command_of("pemlo.core.trialrun.keeper"))
    except OSError as error:
        raise PemloError(f"Nothing can be started: {error.strerror}.", "", "render") from error
    assert process.stdin is not None
    assert process.stdout is not None
    answers: queue.Queue[str] = queue.Queue()
    listener = threading.Thread(target=lambda out=process.stdout: answers.put(out.read()), daemon=True)
    listener.start()
    began = time.monotonic()
    try:
        process.stdin.write(json.dumps(asdict(order)) + "\n")
        process.stdin.flush()
        while process.poll() is None:
            monitor.step(0.0, format_duration(max(time.monotonic() - began, 1.0)))
            with suppress(queue.Empty):
                answers.put(answers.get(timeout=_LOOK_S))
                break
    except BrokenPipeError:
        pass  # what it said tells why
    except Cancelled:
        _end(process)
        raise
    finally:
        _end(process)
        listener.join()
        process.stdout.close()
        if process.stderr is not None:
            process.stderr.close()
    return _answer(run, answers.get())


def _end(process: Any) -> None:  # noqa: ANN401 - a Popen
    """End the keeper's input: it ends the command, and then itself."""
    with suppress(OSError):
        process.stdin.close()
    process.wait()


def _answer(run: TrialRun, said: str) -> tuple[Measured, str]:
    try:
        measured = Measured(**json.loads(said))
    except (ValueError, TypeError) as error:
        raise PemloError("What kept the renderer ended by itself.", "Render the frame again.", "render") from error
    if measured.ended == "not started":
        program = shown(run.command.words[0], 60)
        raise InputError(
            [Problem(f"Way {run.way.name}", f"“{program}” cannot be started: {measured.trouble}")],
            "Write the program's whole path, and see that its folder is there.",
        )
    return measured, output_of(run.folder)


def output_of(folder: Path) -> str:
    """Return what a command wrote; empty if that is gone."""
    with suppress(OSError), (folder / OUTPUT).open("rb") as file:
        return file.read(_MOST_OUTPUT).decode("utf-8", "replace")
    return ""


def forget(run: TrialRun) -> None:
    """Remove the folder of a run that left nothing worth keeping."""
    shutil.rmtree(run.folder, ignore_errors=True)


def records(pictures: Path) -> tuple[Path, ...]:
    """Return the folders of runs that came to their end, oldest first."""
    return tuple(sorted(path.parent for path in (pictures / RUNS).glob(f"*/{RECORD}")))
