"""What the program remembers between starts: recent projects, looks, windows. Lives on the GUI thread."""

import json
from dataclasses import asdict
from pathlib import Path
from typing import Any

import platformdirs
from PySide6.QtCore import QSettings

from pemlo.app.appearance import Appearance, appearance_of
from pemlo.app.window_memory import WindowMemory, stored_fields

MOST_RECENT = 10


class Preferences:
    """Settings in the user's own folder."""

    def __init__(self) -> None:
        file = Path(platformdirs.user_config_dir("pemlo", appauthor=False)) / "settings.ini"
        self._store = QSettings(str(file), QSettings.Format.IniFormat)
        self.windows = WindowMemory(self._store)

    def recent(self) -> list[Path]:
        """Projects that were opened last, newest first; they need not be there any more."""
        return [Path(name) for name in self._list("recent")]

    def add_recent(self, path: Path) -> None:
        """Put a project first among the recent ones."""
        whole = path.resolve()
        paths = [whole, *(other for other in self.recent() if other != whole)]
        self._store.setValue("recent", [str(one) for one in paths[:MOST_RECENT]])

    @property
    def appearance(self) -> Appearance:
        """How the program looks."""
        return appearance_of(stored_fields(self._store.value("appearance")))

    @appearance.setter
    def appearance(self, appearance: Appearance) -> None:
        self._store.setValue("appearance", json.dumps(asdict(appearance)))

    @property
    def picture_names(self) -> dict[str, str]:
        """Under which names pictures of other renderers hold what, by field of a trial."""
        return _names(self._store.value("picture names"))

    @picture_names.setter
    def picture_names(self, names: dict[str, str]) -> None:
        self._store.setValue("picture names", json.dumps(names))

    @property
    def column_names(self) -> dict[str, str]:
        """What titles of tables mean, as the person said: columns by the titles' keys."""
        return _names(self._store.value("column names"))

    @column_names.setter
    def column_names(self, names: dict[str, str]) -> None:
        self._store.setValue("column names", json.dumps(names))

    @property
    def colour_view(self) -> tuple[str, str, str] | None:
        """The view that pictures were shown on last: configuration, display, view; None for sRGB.

        None too if its configuration is gone.
        """
        found: Any = self._store.value("colour view", [])
        if not isinstance(found, list) or len(found) != 3 or not Path(str(found[0])).is_file():
            return None
        return str(found[0]), str(found[1]), str(found[2])

    @colour_view.setter
    def colour_view(self, view: tuple[str, str, str] | None) -> None:
        self._store.setValue("colour view", list(view or ()))

    @property
    def own_lines(self) -> list[str]:
        """Lines to tick off before a launch, of all films."""
        return self._list("own lines")

    @own_lines.setter
    def own_lines(self, lines: list[str]) -> None:
        self._store.setValue("own lines", lines)

    @property
    def usual_outputs(self) -> list[str] | None:
        """What is usually handed over, by file; None if nobody has said."""
        return self._list("usual outputs") if self._store.contains("usual outputs") else None

    @usual_outputs.setter
    def usual_outputs(self, keys: list[str]) -> None:
        self._store.setValue("usual outputs", keys)

    @property
    def command_template(self) -> str:
        """The person's own template of command lines; empty for none."""
        return str(self._store.value("command template", ""))

    @command_template.setter
    def command_template(self, template: str) -> None:
        self._store.setValue("command template", template)

    @property
    def cluster(self) -> str:
        """Where a cluster is that does large work, as the person wrote it; empty for none."""
        return str(self._store.value("cluster", ""))

    @cluster.setter
    def cluster(self, place: str) -> None:
        self._store.setValue("cluster", place)

    def _list(self, key: str) -> list[str]:
        # A list of one comes back as its text, and an empty one as nothing.
        found: Any = self._store.value(key, [])
        return [found] if isinstance(found, str) and found else [str(one) for one in found or []]


def _names(stored: object) -> dict[str, str]:
    return {str(what): str(name) for what, name in stored_fields(stored).items()}
