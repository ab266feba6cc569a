"""Settings over what was asked, as people type them: ``samples=64,denoise=frame``. Pure text."""

import re

from pemlo.core.errors import InputError, Problem
from pemlo.core.project.settings import LEVERS, NO_DENOISE, ShotSettings
from pemlo.core.project.spelling import cap, rays, read_way, switch_names


def settings_over(asked: ShotSettings, words: str) -> ShotSettings:
    """Return settings with some levers at other values, as ``lever=value,lever=value`` says.

    Raises
    ------
    InputError
        If there is no such lever, or the value is not allowed.

    Examples
    --------
    >>> settings_over(ShotSettings(samples=64), "split=4,1,2,denoise=frame").split
    (4, 1, 2)
    >>> settings_over(ShotSettings(samples=64), "way=depth 20").way_value
    20.0
    """
    fields: dict[str, object] = {}
    # A comma may also be part of a value: a new lever begins where a name and an equals sign follow.
    for part in re.split(r",\s*(?=[a-z_ ]+=)", words):
        lever, found, value = part.partition("=")
        lever = lever.strip().replace(" ", "_")
        if not found:
            raise InputError([Problem(part.strip(), "is not a lever")], "Write it like samples=128,denoise=frame.")
        if lever == "way":
            fields["way"], fields["way_value"] = read_way(value)
            continue
        if lever not in (*LEVERS, "between"):
            raise InputError([Problem(words, f"there is no lever {lever}")], f"There are: {', '.join(LEVERS)}, way.")
        fields[lever] = value.strip() if lever == "between" else lever_value(lever, value.strip())
    return asked.replace(**fields)


def lever_value(lever: str, text: str) -> object:
    """Read the value of a lever."""
    if lever == "keep":
        return tuple(part for part in text.replace("+", " ").split() if part != NO_DENOISE)
    if lever == "noise_threshold" and text == NO_DENOISE:
        return None
    parse = {"switches": switch_names, "split": rays, "most_seconds": cap}.get(lever)
    if parse is not None:
        try:
            return parse(text)
        except ValueError as error:
            raise InputError([Problem(f"{lever}={text}", str(error))]) from error
    return text
