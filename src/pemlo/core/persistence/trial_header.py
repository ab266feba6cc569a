"""What a picture's header says of its trial: under our own names, or under names that the user gave. Pure."""

import re
from collections.abc import Mapping
from typing import Any

from pemlo.core.errors import InputError, Problem
from pemlo.core.files.header import OURS, Header
from pemlo.core.foreign import shown
from pemlo.core.persistence.csv_trials import COLUMNS
from pemlo.core.persistence.table import kept_stages
from pemlo.core.project.timed_sizes import rendered_size
from pemlo.core.project.trials import MOST_PERCENT, MOST_SIDE, STAGES, region_share, why_left_out

# What can be read of a trial, in the order in which it is asked for; as in a table of trials.
FIELDS = (
    *("seconds", "shot", "frame", "samples", "min_samples", "noise_threshold", "resolution_percent", "denoise"),
    *("machine", "seed", *(f"{stage}_seconds" for stage in STAGES), "mean_samples", "noise"),
)
_PARSE = {column.name: column.parse for column in COLUMNS}
NEEDED = ("seconds",)
_SIDE = re.compile(r"[1-9][0-9]{0,5}")
_DIGITS = re.compile(r"(?<!\d)\d{1,9}(?!\d)")


def is_ours(header: Header) -> bool:
    """Whether the stand-in renderer wrote the picture."""
    return f"{OURS}scene" in header.attributes and f"{OURS}seconds" in header.attributes


def missing(header: Header, names: Mapping[str, str]) -> tuple[str, ...]:
    """Return what a trial needs and the header does not say, under the given names."""
    return tuple(field for field in NEEDED if names.get(field, "") not in header.attributes)


def fields_of(header: Header, names: Mapping[str, str]) -> dict[str, Any]:
    """Return the fields of a trial that a header says.

    Parameters
    ----------
    header : Header
    names : mapping of str to str
        For each of `FIELDS` the attribute that holds it; fields without one are left out. Not used for our own
        pictures.

    Returns
    -------
    dict
        Fields of `Trial`. The frame is the last number of the file's name where the header does not tell it; `scene`
        is among them for our own pictures.

    Raises
    ------
    InputError
        With every attribute that cannot be read.
    """
    found, problems = read_fields(header, names)
    _refuse(problems)
    return found


def read_fields(header: Header, names: Mapping[str, str]) -> tuple[dict[str, Any], list[Problem]]:
    """Return the fields of a trial that can be read of a header, and what is wrong with the others.

    Parameters and fields are those of `fields_of`.
    """
    if is_ours(header):
        said = {name.removeprefix(OURS): text for name, text in header.attributes.items() if name.startswith(OURS)}
        return _read_ours(said, header.path.name)
    texts = {field: header.attributes[name] for field, name in names.items() if name in header.attributes}
    wanted = {field: text for field, text in texts.items() if field in FIELDS}
    found, problems = _parsed(wanted, names, header.path.name)
    if found.get("noise_threshold") == 0:
        del found["noise_threshold"]
    if header.disk_mib:
        found.setdefault("disk_mib", header.disk_mib)
    digits = _DIGITS.findall(header.path.stem)
    if "frame" not in found and digits:
        found["frame"] = int(digits[-1])
    return found, problems


def our_fields(said: Mapping[str, str], where: str) -> dict[str, Any]:
    """Return the fields of a trial that the small renderer's header says, and its `scene`.

    Parameters
    ----------
    said : mapping of str to str
        The header's attributes, without their prefix.
    where : str
        What the header is of, for messages.

    Raises
    ------
    InputError
        With every attribute that cannot be read.
    """
    found, problems = _read_ours(said, where)
    _refuse(problems)
    return found


def _read_ours(said: Mapping[str, str], where: str) -> tuple[dict[str, Any], list[Problem]]:
    wanted = (*FIELDS, "noise_shape", "most_seconds", "split", "switches", "saves", "memory_gib", "disk_mib")
    found, problems = _parsed({field: said[field] for field in wanted if field in said}, {}, where)
    if not found.get("noise_threshold"):
        found |= {"noise_threshold": None, "min_samples": None}
    found |= _timed_size(said, found.get("resolution_percent"))
    why = why_left_out(first_run=said.get("first_run") == "1")
    region = said.get("region", "whole")
    if region != "whole":
        try:
            found["region_percent"] = region_share(region, float(said["full_width"]), float(said["full_height"]))
        except (KeyError, ValueError, ZeroDivisionError):
            problems.append(Problem(f"{where}, region", f"“{shown(region, 40)}” is no region of a frame of known size"))
    try:
        found["keep"] = kept_stages(said.get("read_back", ""))
    except ValueError as error:
        problems.append(Problem(f"{where}, read_back", str(error)))
    return {**found, "scene": said["scene"], "left_out": why}, problems


def _timed_size(said: Mapping[str, str], percent: float | None) -> dict[str, int]:
    """Return the pixels that a frame was rendered at; empty if its header does not tell them."""
    sides = [said.get("full_width", ""), said.get("full_height", "")]
    if percent is None or not all(_SIDE.fullmatch(side) for side in sides) or not 0 < percent <= MOST_PERCENT:
        return {}
    width, height = rendered_size((int(sides[0]), int(sides[1])), percent)
    return {"width": width, "height": height} if max(width, height) <= MOST_SIDE else {}


def _parsed(texts: Mapping[str, str], names: Mapping[str, str], where: str) -> tuple[dict[str, Any], list[Problem]]:
    found: dict[str, Any] = {}
    problems: list[Problem] = []
    for field, text in texts.items():
        if not text.strip():
            continue
        try:
            found[field] = _PARSE[field](text.strip())
        except (ValueError, InputError) as error:
            problems.append(Problem(f"{where}, {names.get(field, field)}", str(error)))
    return found, problems


def _refuse(problems: list[Problem]) -> None:
    if problems:
        raise InputError(problems, "Give the names of the header's attributes anew, or type the trial by hand.")
