"""Brings pictures in as trials: reads headers in the background, asks for names that are not known. GUI thread."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtWidgets import QComboBox, QDialog, QGridLayout, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from pemlo.app import picture_places
from pemlo.app.document import Document
from pemlo.app.jobs import Jobs
from pemlo.app.preferences import Preferences
from pemlo.core.errors import InputError, PemloError, Problem
from pemlo.core.files.header import Header, read_header
from pemlo.core.files.safe_paths import inside
from pemlo.core.persistence.trial_header import FIELDS, NEEDED, is_ours, missing
from pemlo.core.progress import Monitor
from pemlo.core.project.edits import add_trials
from pemlo.core.units import listed
from pemlo.gui.common.enabling import enable
from pemlo.gui.common.labels import button, label
from pemlo.gui.common.plain import set_tip
from pemlo.gui.trials.dropped_words import dropped_trials, guessed_names, title_of

NOT_THERE = "–"


class NamesForm(QDialog):
    """Asks for the attribute of each field, with what the first picture says there.

    Parameters
    ----------
    header : Header
        Of a picture that was brought in.
    names : mapping
        What is remembered from before.
    """

    def __init__(self, parent: QWidget, header: Header, names: Mapping[str, str]) -> None:
        super().__init__(parent)
        self.setWindowTitle("Names in picture headers")
        self._header = header
        self.boxes: dict[str, QComboBox] = {}
        begin = {**guessed_names(header), **names}
        inside = QWidget()
        grid = QGridLayout(inside)
        grid.setContentsMargins(0, 0, 8, 0)
        self._said = {}
        for row, field in enumerate(FIELDS):
            box = self.boxes[field] = QComboBox()
            box.addItem(NOT_THERE, "")
            for name in sorted(header.attributes):
                box.addItem(name, name)
            box.setCurrentIndex(max(0, box.findData(begin.get(field, ""))))
            box.setAccessibleName(title_of(field))
            set_tip(box, f"Attribute that holds: {title_of(field).lower()}")
            box.setMinimumWidth(240)
            said = self._said[field] = label("", "second")
            said.setMinimumWidth(200)
            grid.addWidget(label(title_of(field) + (" (needed)" if field in NEEDED else "")), row, 0)
            grid.addWidget(box, row, 1)
            grid.addWidget(said, row, 2)
            box.currentIndexChanged.connect(self._say)
        scroll = QScrollArea()
        scroll.setWidget(inside)
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QScrollArea.Shape.NoFrame)
        buttons = QHBoxLayout()
        buttons.addStretch(1)
        buttons.addWidget(button("Cancel", "Bring nothing in", self.reject))
        self.go = button("Bring in", "Read the pictures with these names, and remember them", self.accept, main=True)
        buttons.addWidget(self.go)
        column = QVBoxLayout(self)
        words = (
            f"{header.path.name} was not written by Pemlo's renderer. Say which attribute of its header holds what; "
            "that is remembered for other pictures."
        )
        column.addWidget(label(words, wrap=True))
        column.addWidget(scroll, 1)
        column.addLayout(buttons)
        self.resize(620, 560)
        self._say()

    def names(self) -> dict[str, str]:
        """Return the attribute of each field that has one."""
        return {field: str(box.currentData()) for field, box in self.boxes.items() if box.currentData()}

    def _say(self) -> None:
        names = self.names()
        for field, said in self._said.items():
            said.setText(self._header.attributes.get(names.get(field, ""), ""))
        enable(self.go, "" if all(field in names for field in NEEDED) else f"Say which names hold {listed(NEEDED)}.")


PICTURES = "pictures"


@dataclass(frozen=True)
class _Read:
    headers: tuple[Header, ...]
    problems: tuple[Problem, ...]


class DroppedPictures:
    """Takes picture files for a window."""

    def __init__(
        self,
        parent: QWidget,
        document: Document,
        jobs: Jobs,
        preferences: Preferences,
        report: Callable[[PemloError], None],
    ) -> None:
        self._parent, self._document, self._jobs = parent, document, jobs
        self._preferences, self._report = preferences, report

    def take(self, paths: Sequence[Path], shown: str) -> None:
        """Read pictures, and add them as trials; those that tell no shot are of the shot that is shown."""
        project_file = self._document.path

        def work(monitor: Monitor) -> _Read:
            headers, problems = [], []
            for number, path in enumerate(paths):
                monitor.step(number / len(paths), f"Reading {path.name}")
                try:
                    header = read_header(path)
                    _make_small(path, project_file)
                    headers.append(header)
                except PemloError as error:
                    problems.append(Problem(path.name, error.message))
            return _Read(tuple(headers), tuple(problems))

        self._jobs.submit(PICTURES, "Reading pictures", work, lambda read: self._on_read(read, shown))

    def _on_read(self, read: _Read, shown: str) -> None:
        names = self._preferences.picture_names
        unknown = [header for header in read.headers if not is_ours(header) and missing(header, names)]
        headers = read.headers
        if unknown:
            asked = self.ask_names(unknown[0], names)
            if asked is None:
                headers = tuple(header for header in headers if header not in unknown)
            else:
                names = self._preferences.picture_names = asked
        project = self._document.project
        trials, problems = dropped_trials(headers, names, project, shown)
        if trials:
            what = "a picture" if len(trials) == 1 else f"{len(trials)} pictures"
            self._document.edit(f"Bring in {what}", lambda project: add_trials(project, trials))
        problems = (*read.problems, *problems)
        if problems:
            hint = f"{len(trials)} of {len(trials) + len(problems)} pictures were brought in." if trials else ""
            self._report(InputError(problems, hint))

    def ask_names(self, header: Header, names: dict[str, str]) -> dict[str, str] | None:
        """Ask under which names the header says what; None if nothing is to be brought in."""
        form = NamesForm(self._parent, header, names)
        return form.names() if form.exec() else None


def _make_small(path: Path, project_file: Path | None) -> None:
    from pemlo.core.files.small import write_small_of  # noqa: PLC0415 - heavy to load, and only pictures need it

    small = picture_places.small_beside_project(path, project_file)
    if picture_places.small_of(path, project_file) is None:
        inside(picture_places.folder_for(project_file), f"{small.parent.name}/{small.name}")
        small.parent.mkdir(parents=True, exist_ok=True)
        write_small_of(path, small)
