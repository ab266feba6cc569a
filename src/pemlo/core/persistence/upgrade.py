"""From older files to today's: one pure step from each version to the next, never changed once released."""

from collections.abc import Callable
from typing import Any

Step = Callable[[dict[str, Any]], dict[str, Any]]


def _names_that_go(data: dict[str, Any]) -> dict[str, Any]:
    """Version 2: names hold no separators, nothing that cannot be seen, and shots do not begin with a minus."""
    shots = _renamed(data.get("shots"), _shot_name)
    machines = _renamed(data.get("machines"), _plain)

    def of_field(key: str, value: str) -> str:
        if key in ("shot", "part_of"):
            return shots.get(value) or _shot_name(value)
        if key == "machine":
            return machines.get(value, value)
        return _plain(value) if key in ("title", "look", "denoise") else value

    made: dict[str, Any] = _walked(data, of_field, "")
    for kind, names in (("shots", shots), ("machines", machines)):
        for one in _list(made.get(kind)):
            if isinstance(one, dict) and isinstance(one.get("name"), str):
                one["name"] = names[one["name"]]
    return made


def _plain(text: str, unwanted: str = "") -> str:
    """Return what prints of a text, with single spaces."""
    kept = "".join("_" if one in unwanted else one if one.isprintable() else " " for one in text)
    return " ".join(kept.split())


def _shot_name(text: str) -> str:
    made = _plain(text, "/\\").lstrip("-").strip()
    return "" if made in (".", "..") else made


def _renamed(records: object, make: Callable[[str], str]) -> dict[str, str]:
    """Return the new name of each record; where two would be the same, a number tells them apart."""
    texts = [one["name"] for one in _list(records) if isinstance(one, dict) and isinstance(one.get("name"), str)]
    taken, found = {name for name in texts if make(name) == name}, {}
    for name in texts:
        new = made = make(name) or "shot"
        number = 2
        while name not in taken and new in taken:
            new, number = f"{made} {number}", number + 1
        taken.add(new)
        found[name] = new
    return found


def _walked(value: Any, of_field: Callable[[str, str], str], key: str) -> Any:  # noqa: ANN401 - JSON can be anything
    """Return data in which every text is what it becomes under the name of its field."""
    if isinstance(value, dict):
        return {name: _walked(inside, of_field, name) for name, inside in value.items()}
    if isinstance(value, list):
        return [_walked(inside, of_field, "shot" if key == "after" else "") for inside in value]
    return of_field(key, value) if isinstance(value, str) else value


def _list(value: object) -> list[Any]:
    return value if isinstance(value, list) else []


# STEPS[n] brings a file of version n + 1 to version n + 2.
STEPS: tuple[Step, ...] = (_names_that_go,)
VERSION = len(STEPS) + 1


def upgraded(data: dict[str, Any], version: int) -> dict[str, Any]:
    """Bring the data of an older file to today's version."""
    for step in STEPS[version - 1 :]:
        data = step(data)
    return data
