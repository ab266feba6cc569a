"""What all tests share: no Qt where it is asked for, a fresh folder for what the program keeps, and nothing left behind."""

import os
import sys
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings

from by_day import ALL, cases

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
# The compiled code is kept between runs of the tests, but apart from what the user's own program keeps.
os.environ.setdefault("PEMLO_CACHE_FOLDER", str(Path.home() / ".cache/pemlo-tests"))
WITHOUT_QT = os.environ.get("PEMLO_WITHOUT_QT") == "1"

# By day fewer random cases are tried, and what takes long and hardly ever breaks is left to `./dev test --all`.
settings.register_profile(
    "steady",
    deadline=None,
    derandomize=True,
    max_examples=cases(60),
    suppress_health_check=[HealthCheck.too_slow],
)
settings.load_profile("steady")


class _NoQt:
    """Makes PySide6 unimportable, as on a machine without it."""

    def find_spec(self, name, path=None, target=None):
        if name.split(".")[0] in ("PySide6", "shiboken6"):
            raise ModuleNotFoundError(f"{name} is made unimportable for this run", name=name)


if WITHOUT_QT:
    sys.meta_path.insert(0, _NoQt())
    collect_ignore = ["gui", "app", "end_to_end"]


def pytest_addoption(parser):
    """Know the settings of pytest-qt where it is left out."""
    if WITHOUT_QT:
        for name in ("qt_api", "qt_log_level_fail", "qt_log_ignore"):
            parser.addini(name, "unused without Qt", "args")


def pytest_collection_modifyitems(items):
    for item in items:
        if "qapp" in getattr(item, "fixturenames", ()):
            item.add_marker(pytest.mark.gui)
        if not ALL and item.get_closest_marker("nightly"):
            item.add_marker(pytest.mark.skip(reason="only with ./dev test --all"))
    # What takes long begins first: no worker is left with it at the end.
    items.sort(key=lambda item: item.get_closest_marker("slow") is None)


@pytest.fixture(autouse=True)
def own_folders(tmp_path, monkeypatch):
    """Keep what the program remembers out of the folders of whoever runs the tests."""
    monkeypatch.setenv("PEMLO_STATE_FOLDER", str(tmp_path / "state"))
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
