"""From older files to today's: one pure step from each version to the next, never changed once released."""

from collections.abc import Callable
from typing import Any

Step = Callable[[dict[str, Any]], dict[str, Any]]


def _names_that_go(data: dict[str, Any]) -> dict[str, Any]:
    """Version 2: names hold no separators, nothing that cannot be seen, and shots do not begin with a minus."""

    def plain(text: str, unwanted: str) -> str:
        # What prints, and spaces; another name than any of before is made by a number.
        kept = "".join("_" if one in unwanted else one if one.isprintable() else " " for one in text)
        return " ".join(kept.split())

    def renamed(kind: str, make: Callable[[str], str]) -> dict[str, str]:
        names = [one.get("name") for one in _list(data.get(kind)) if isinstance(one, dict)]
        texts = [name for name in names if isinstance(name, str)]
        taken, found = {name for name in texts if make(name) == name}, {}
        for name in texts:
            new = made = make(name) or "shot"
            number = 2
            while name not in taken and new in taken:
                new, number = f"{made} {number}", number + 1
            taken.add(new)
            found[name] = new
        return found

    def shot_name(text: str) -> str:
        made = plain(text, "/\\").lstrip("-").strip()
        return "" if made in (".", "..") else made

    shots, machines = renamed("shots", shot_name), renamed("machines", lambda text: plain(text, ""))
    of_field = {"shot": shots, "part_of": shots, "machine": machines}

    def walked(value: Any, key: str = "") -> Any:  # noqa: ANN401 - JSON can be anything
        if isinstance(value, dict):
            return {name: walked(inside, name) for name, inside in value.items()}
        if isinstance(value, list):
            return [walked(inside, "shot" if key == "after" else "") for inside in value]
        return of_field.get(key, {}).get(value, value) if isinstance(value, str) else value

    made: dict[str, Any] = walked(data)
    for kind, names in (("shots", shots), ("machines", machines)):
        for one in _list(made.get(kind)):
            if isinstance(one, dict) and isinstance(one.get("name"), str):
                one["name"] = names[one["name"]]
    return made


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
