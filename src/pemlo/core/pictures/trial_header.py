"""What a picture's header says of its trial: under our own names, or under names that the user gave. Pure."""

import re
from collections.abc import Callable, Mapping
from typing import Any

from pemlo.core.errors import InputError, Problem
from pemlo.core.persistence.csv_trials import kept_stages
from pemlo.core.persistence.table import number, seconds_or_none, whole_number
from pemlo.core.pictures.header import Header
from pemlo.core.plan.trials import FIRST_RUN, PART_OF_FRAME, STAGES
from pemlo.core.units import parse_duration

OURS = "pemlo:"
Parse = Callable[[str], Any]


def _words(text: str) -> str:
    return text.strip()


def _numbers(text: str) -> tuple[float, ...]:
    return tuple(float(word) for word in text.split())


# What can be read of a trial, in the order in which it is asked for, and how.
READ: dict[str, Parse] = {
    "seconds": parse_duration,
    "shot": _words,
    "frame": whole_number,
    "samples": whole_number,
    "min_samples": whole_number,
    "noise_threshold": number,
    "resolution_percent": number,
    "denoise": _words,
    "machine": _words,
    "seed": int,
    **{f"{stage}_seconds": seconds_or_none for stage in STAGES},
    "mean_samples": number,
    "noise": number,
}
NEEDED = ("seconds",)


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
        For each field of `READ` the attribute that holds it; fields without one are left out. Not used for our own
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
    if is_ours(header):
        return _ours(header)
    texts = {field: header.attributes[name] for field, name in names.items() if name in header.attributes}
    found = _parsed(header, {field: text for field, text in texts.items() if field in READ and text.strip()}, names)
    if found.get("noise_threshold") == 0:
        del found["noise_threshold"]
    digits = re.findall(r"\d+", header.path.stem)
    if "frame" not in found and digits:
        found["frame"] = int(digits[-1])
    return found


def _ours(header: Header) -> dict[str, Any]:
    said = {name.removeprefix(OURS): text for name, text in header.attributes.items() if name.startswith(OURS)}
    names = {field: OURS + field for field in READ}
    found = _parsed(header, {field: said[field] for field in READ if said.get(field, "").strip()}, names)
    if not found.get("noise_threshold"):
        found |= {"noise_threshold": None, "min_samples": None}
    if said.get("first_run") == "1":
        found["left_out"] = FIRST_RUN
    elif said.get("region", "whole") != "whole":
        found["left_out"] = PART_OF_FRAME
    return {
        **found,
        "scene": said["scene"],
        "keep": kept_stages(said.get("read_back", "")),
        "noise_shape": _numbers(said.get("noise_shape", "")),
    }


def _parsed(header: Header, texts: Mapping[str, str], names: Mapping[str, str]) -> dict[str, Any]:
    found, problems = {}, []
    for field, text in texts.items():
        try:
            found[field] = READ[field](text)
        except (ValueError, InputError) as error:
            problems.append(Problem(f"{header.path.name}, {names[field]}", str(error)))
    if problems:
        raise InputError(problems, "Give the names of the header's attributes anew, or type the trial by hand.")
    return found
