"""What came back of a run: a trial, or why it is none. Reads the picture. Files."""

import dataclasses
import json
import os
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from pemlo.core.arrivals.frame_check import check_frame
from pemlo.core.errors import InputError, PemloError
from pemlo.core.files.header import PICTURE_ENDINGS, read_header
from pemlo.core.foreign import shown, visible
from pemlo.core.persistence.trial_header import is_ours, our_fields
from pemlo.core.project.record import build
from pemlo.core.project.render_ways import RenderWay
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.trials import FIRST_RUN, Trial, region_share
from pemlo.core.trialrun.keeper import CLOCKS_DIFFER_S, RECORD, Measured
from pemlo.core.trialrun.output_reader import OutputSays, read_output
from pemlo.core.trialrun.run import TrialRun, output_of
from pemlo.core.trialrun.template import FilledCommand, FrameTask
from pemlo.core.units import GIB, MIB, format_duration

_LAST_WORDS = 300
_LAST_LINES = 3
_MOST_RECORD_BYTES = 4 * 2**20
_SLEPT_S = 1.0  # a computer that slept for longer was no clock
_STAGES = ("prepare_seconds", "light_seconds", "trace_seconds", "denoise_seconds", "write_seconds")


@dataclass(frozen=True)
class Landed:
    """What came of a run.

    Attributes
    ----------
    trial : Trial, optional
    why : str
        Why it is none, in a sentence; empty if it is one.
    said : tuple of str
        What else there is to say: what was not read, what else ran.
    measured : Measured
    run : TrialRun
    """

    trial: Trial | None
    why: str
    said: tuple[str, ...]
    measured: Measured
    run: TrialRun


def landed(run: TrialRun, measured: Measured, output: str, *, frames_at_once: int = 1, first: bool = False) -> Landed:
    """Judge a run.

    Parameters
    ----------
    run : TrialRun
    measured : Measured
    output : str
    frames_at_once : int
        How many ran on its machine meanwhile.
    first : bool
        Whether it was the first of its way on its machine.
    """
    try:
        trial, said = _trial(run, measured, output, frames_at_once, first=first)
    except _NoTrialError as error:
        return Landed(None, str(error), (), measured, run)
    except PemloError as error:
        return Landed(None, " ".join(str(error).split()), (), measured, run)
    return Landed(trial, "", said, measured, run)


class _NoTrialError(Exception):
    """Why a run is no trial."""


def _trial(
    run: TrialRun, measured: Measured, output: str, frames_at_once: int, *, first: bool
) -> tuple[Trial, tuple[str, ...]]:
    task, way = run.task, run.way
    if measured.ended == "limit":
        return _at_its_limit(run, measured, frames_at_once), ()
    if measured.ended:
        raise _NoTrialError("It was stopped.")
    if measured.code != 0:
        raise _NoTrialError(_crash(measured, output))
    fields, said = _of_picture(run, measured)
    told = read_output(way.output, output, task.frame) if way.output else OutputSays({})
    fields |= _of_output(way, told)
    if not run.elsewhere:
        if "seconds" not in fields:  # what the renderer says of itself leaves out its start, which processors did not
            fields["processor_seconds"] = measured.processor_seconds
        fields.setdefault("memory_gib", measured.memory_bytes / GIB or None)
        fields.setdefault("other_load", round(measured.other_load, 4))
    seconds = float(fields.setdefault("seconds", round(measured.seconds, 3)))
    if measured.slept_seconds > _SLEPT_S:
        said = (*said, f"the computer slept for {format_duration(measured.slept_seconds)} meanwhile")
        fields["left_out"] = "the computer slept meanwhile"
    elif (first and way.first_left_out) or told.first_of_several:
        fields["left_out"] = fields.get("left_out") or FIRST_RUN
    if seconds <= 0:
        raise _NoTrialError("It took no time at all.")
    return _built(run, {**fields, "frames_at_once": frames_at_once}), said


def _built(run: TrialRun, fields: dict[str, Any]) -> Trial:
    task = run.task
    own = {
        **task.settings.frame_fields(),
        "width": task.rendered_size[0],
        "height": task.rendered_size[1],
        "region_percent": _share(task),
        "machine": run.machine,
        "seed": task.seed,
        "repeat": task.repeat,
    }
    fields.pop("scene", None)
    return build(Trial, {**own, **fields, "shot": task.shot, "frame": task.frame}, "The rendered frame")


def _share(task: FrameTask) -> float | None:
    if task.region is None:
        return None
    return region_share(",".join(map(str, task.region)), *map(float, task.size))


def _at_its_limit(run: TrialRun, measured: Measured, frames_at_once: int) -> Trial:
    """Return the trial of a frame that was ended by its limit: all it says is that the frame takes longer."""
    limit = run.way.time_limit_s or measured.seconds
    settings = {**run.task.settings.frame_fields(), "most_seconds": limit}
    return _built(
        run,
        {
            **settings,
            "seconds": max(measured.seconds, limit),
            "frames_at_once": frames_at_once,
            "note": f"Ended at its limit of {format_duration(limit)}: it takes longer.",
        },
    )


def _crash(measured: Measured, output: str) -> str:
    code = measured.code or 0
    how = f"it was ended by signal {-code}" if code < 0 else f"exit status {code}"
    words = visible(" / ".join(last_lines(output)))[-_LAST_WORDS:]
    return f"The renderer failed: {how}." + (f" It said last: {words}" if words else " It said nothing.")


def last_lines(output: str) -> list[str]:
    """Return the last lines that a command wrote and that say something, each of bounded length."""
    return [line.strip()[:_LAST_WORDS] for line in output.splitlines() if line.strip()][-_LAST_LINES:]


def _of_picture(run: TrialRun, measured: Measured) -> tuple[dict[str, Any], tuple[str, ...]]:
    """Check the picture, and return what it says as fields of a trial."""
    path = run.picture if run.picture.exists() else run.landing
    name = shown(path.name, 60)
    try:
        state = path.stat()
    except OSError as error:
        raise _NoTrialError(f"There is no picture {name}.") from error
    if state.st_mtime < measured.began - CLOCKS_DIFFER_S:
        raise _NoTrialError(f"The picture {name} is older than the run.")
    if not state.st_size:
        raise _NoTrialError(f"The picture {name} is empty.")
    fields: dict[str, Any] = {"picture": str(path), "disk_mib": state.st_size / MIB}
    if path.suffix.lower() not in PICTURE_ENDINGS:
        kind = path.suffix or "no ending"
        return {"disk_mib": fields["disk_mib"]}, (f"a picture with {kind} cannot be read here: it was not checked",)
    task, names = run.task, dict(run.way.header_names)
    edges = task.region
    cut = None if edges is None else _cut(edges, task.settings.resolution_percent)
    checked = check_frame(path, task.rendered_size, names, cut)
    if not checked.readable:
        raise _NoTrialError(f"The picture {name} {checked.told}.")
    size = checked.width, checked.height
    if size not in (task.rendered_size, cut):
        wanted = "×".join(map(str, task.rendered_size))
        raise _NoTrialError(f"The picture {name} is {size[0]}×{size[1]} px, and {wanted} were asked for.")
    if checked.trouble:
        raise _NoTrialError(f"The picture {name} {checked.told}.")
    header = read_header(path)
    if is_ours(header):
        texts = {key.removeprefix("pemlo:"): value for key, value in header.attributes.items()}
        fields |= our_fields(texts, name)
        # Its seconds are those of a machine that does nothing else.
        return {**fields, "picture": str(path), "other_load": None}, ()
    said = (f"of its header was not read: {checked.not_read}",) if checked.not_read else ()
    known = {key: value for key, value in (checked.said or {}).items() if key in Trial.model_fields}
    differing = [
        f"{key.replace('_', ' ')} {known[key]} in its header, {asked} asked for"
        for key in ("samples", "noise_threshold", "denoise")
        if key in known and (asked := getattr(task.settings, key)) != known[key]
    ]
    if known.get("frame", task.frame) != task.frame:
        raise _NoTrialError(f"The picture {name} says that it is frame {known['frame']}, not {task.frame}.")
    for key in ("shot", "frame", "machine"):
        known.pop(key, None)
    return {**fields, **known}, (*said, *differing)


def _cut(edges: tuple[int, int, int, int], percent: float) -> tuple[int, int]:
    """Return the size of a picture that holds its region only, px."""
    share = percent / 100
    left, top, right, bottom = (round(edge * share) for edge in edges)
    return max(1, right - left), max(1, bottom - top)


def _of_output(way: RenderWay, told: OutputSays) -> dict[str, Any]:
    """Return what the output says as fields of a trial."""
    wanted = {mark.field for example in way.output for mark in example.marks}
    if "seconds" in wanted and "seconds" not in told.values:
        raise _NoTrialError("No line of its output tells the seconds as the marked one does.")
    fields: dict[str, Any] = {}
    for name, value in told.values.items():
        if name == "memory":
            fields["memory_gib"] = value or None
        elif name in ("seconds", "mean_samples", *_STAGES):
            fields[name] = value
    return fields


def from_record(folder: Path) -> Landed:
    """Return what came of a run that ended while nobody waited for it.

    Raises
    ------
    InputError
        If its record is none.
    """
    path = folder / RECORD
    try:
        if path.stat().st_size > _MOST_RECORD_BYTES:
            raise InputError(f"{path.name} is too large for a record.")
        data = json.loads(path.read_text(encoding="utf-8"))
        run = _run_of(data, folder)
        measured = _measured_of(data["measured"])
    except (OSError, ArithmeticError, ValueError, LookupError, TypeError, AttributeError, RecursionError) as error:
        raise InputError(f"{shown(str(folder), 80)} holds no record of a run.") from error
    return landed(run, measured, output_of(folder))


def _measured_of(said: dict[str, Any]) -> Measured:
    """Return what a record says was measured, each number as one: others may have written it."""
    usual = Measured()
    kinds: dict[str, Any] = {one.name: type(getattr(usual, one.name)) for one in dataclasses.fields(Measured)} | {
        "code": int
    }
    values: dict[str, Any] = {
        name: None if value is None and name == "code" else kinds[name](value) for name, value in said.items()
    }
    return Measured(**values)


def _run_of(data: dict[str, Any], folder: Path) -> TrialRun:
    region = data["region"]
    task = FrameTask(
        str(data["shot"]),
        int(data["frame"]),
        (int(data["size"][0]), int(data["size"][1])),
        build(FrameSettings, data["settings"], "Record"),
        str(data["scene"]),
        region=None if region is None else (region[0], region[1], region[2], region[3]),
        seed=int(data["seed"]),
        repeat=int(data["repeat"]),
    )
    picture = Path(os.fspath(data["picture"]))
    command = FilledCommand(tuple(map(str, data["command"])), "", (), str(picture))
    way = build(RenderWay, data["way"], "Record")
    return TrialRun(task, way, str(data["machine"]), bool(data["elsewhere"]), command, folder)
