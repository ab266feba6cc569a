"""The form that says where frames arrive, and how their logs and headers are read. GUI thread."""

import re
from collections.abc import Callable
from pathlib import Path

from PySide6.QtWidgets import (
    QCheckBox,
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QVBoxLayout,
    QWidget,
)

from pemlo.core.arrivals.place import FrameName, place_of
from pemlo.core.errors import InputError, PemloError
from pemlo.core.project.delivery import local_moment
from pemlo.core.project.project import Project
from pemlo.core.project.watching import LogFile, Watching
from pemlo.gui.common.labels import button, label

WORDS = (
    "A pattern of folders and names with the fields {shot}, {frame}, {layer} and {take}, from the project's folder on: "
    "renders/{shot}/{shot}.{frame:04}.exr. Nothing is ever written there."
)
HEADER_WORDS = "attribute for seconds, machine, samples: seconds=renderTime, machine=host"


class PlaceForm(QDialog):
    """The form."""

    def __init__(
        self, parent: QWidget, project: Project, root: Path, learn_log: Callable[[Path, str], LogFile | None]
    ) -> None:
        super().__init__(parent)
        self._project, self._root, self._learn_log = project, root, learn_log
        self.setWindowTitle("Where frames arrive")
        now = project.watching
        self._logs = list(now.logs)
        self.place = QLineEdit(now.place)
        self.place.setPlaceholderText("renders/{shot}/{shot}.{frame:04}.exr")
        self.own = QLineEdit("; ".join(f"{shot.name}={shot.place}" for shot in project.shots if shot.place))
        self.own.setPlaceholderText("none; or shots that lie elsewhere: 020=other/{frame:04}.exr; 030=…")
        self.headers = QLineEdit(", ".join(f"{field}={name}" for field, name in now.header_names))
        self.headers.setPlaceholderText(HEADER_WORDS)
        self.launched = QLineEdit("" if now.launched is None else _local(project, now))
        self.launched.setPlaceholderText("as the first frame tells; or 2031-04-21 19:00")
        self.page = QLineEdit(now.status_folder)
        self.page.setPlaceholderText("none; or a folder for a status page, to be read on a phone")
        self.sound = QCheckBox("A sound when an alarm rises and when all is in")
        self.sound.setChecked(now.sound)
        self.example = label("", "second", small=True)
        self.logs = label("", "second", small=True, wrap=True)
        self.wrong = label("", "limit", wrap=True)
        self.place.textChanged.connect(lambda _: self._show())
        form = QFormLayout()
        row = QHBoxLayout()
        row.addWidget(self.place, 1)
        row.addWidget(
            button("From a frame…", "Choose a finished frame; its name becomes the pattern", self._from_frame)
        )
        form.addRow("Frames", row)
        form.addRow("", self.example)
        form.addRow("Elsewhere", self.own)
        logs = QHBoxLayout()
        logs.addWidget(self.logs, 1)
        logs.addWidget(button("Add a log…", "Label the fields in a sample line", self._add_log))
        logs.addWidget(button("None", "Read no log", self._no_logs, link=True))
        form.addRow("Logs", logs)
        form.addRow("Headers", self.headers)
        form.addRow("Launched", self.launched)
        form.addRow("Status page", self.page)
        form.addRow("", self.sound)
        fields = (self.place, self.own, self.headers, self.launched, self.page)
        for name, field in zip(("Frames", "Elsewhere", "Headers", "Launched", "Status page"), fields, strict=True):
            field.setAccessibleName(name)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        self.take = button("Watch these", "Keep it with the project, and look", self._accept, main=True)
        buttons.addButton(self.take, QDialogButtonBox.ButtonRole.ActionRole)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.addWidget(label(WORDS, "second", wrap=True))
        column.addLayout(form)
        column.addWidget(self.wrong)
        column.addWidget(buttons)
        self.resize(680, 360)
        self._show()

    def _show(self) -> None:
        """Show what the pattern means for the first frame of the film."""
        shots = self._project.shots
        text = self.place.text().strip()
        try:
            place = place_of(text) if text else None
        except ValueError as error:
            self.example.setText(str(error))
            return
        if place is None or not shots:
            self.example.setText("")
        else:
            self.example.setText(f"such as {place.path(FrameName(shots[0].name, shots[0].first, 'beauty', '1'))}")
        self.logs.setText(", ".join(log.path for log in self._logs) or "none")

    def _from_frame(self) -> None:
        chosen, _ = QFileDialog.getOpenFileName(self, "A finished frame", str(self._root))
        if chosen:
            self.place.setText(pattern_from(Path(chosen), self._root, self._project))

    def _add_log(self) -> None:
        chosen, _ = QFileDialog.getOpenFileName(self, "A log", str(self._root))
        if not chosen:
            return
        path = Path(chosen)
        shown = path.relative_to(self._root).as_posix() if path.is_relative_to(self._root) else str(path)
        try:
            log = self._learn_log(path, shown)
        except PemloError as error:
            self.wrong.setText(str(error))
            return
        if log is not None:
            self._logs = [log_file for log_file in self._logs if log_file.path != log.path] + [log]
            self._show()

    def _no_logs(self) -> None:
        self._logs.clear()
        self._show()

    def watching(self) -> Watching:
        """Return what was said.

        Raises
        ------
        InputError
            If something cannot be read.
        """
        text = self.place.text().strip()
        try:
            if text:
                place_of(text)
            moment = self.launched.text().strip()
            launched = local_moment(moment, self._project.delivery.timezone) if moment else None
        except ValueError as error:
            raise InputError(f"{error}.") from error
        return self._project.watching.replace(
            place=text, logs=tuple(self._logs), header_names=header_names(self.headers.text()), launched=launched,
            status_folder=self.page.text().strip(), sound=self.sound.isChecked(),
        )  # fmt: skip

    def own_places(self) -> dict[str, str]:
        """Return the places of shots that lie elsewhere.

        Raises
        ------
        InputError
            If one cannot be read, or names no shot.
        """
        found = {}
        names = {shot.name for shot in self._project.shots}
        for part in filter(None, (one.strip() for one in self.own.text().split(";"))):
            name, equals, pattern = (piece.strip() for piece in part.partition("="))
            if not equals or name not in names:
                raise InputError(f"“{part}” names no shot and its place.", "Write 020=other/{frame:04}.exr.")
            try:
                place_of(pattern)
            except ValueError as error:
                raise InputError(f"{error}.") from error
            found[name] = pattern
        return found

    def _accept(self) -> None:
        try:
            self.watching()
            self.own_places()
        except InputError as error:
            self.wrong.setText(str(error))
            return
        self.accept()


def header_names(text: str) -> tuple[tuple[str, str], ...]:
    """Read which attributes of a header hold what.

    Raises
    ------
    InputError
        If it is not written as ``seconds=renderTime, machine=host``.
    """
    from pemlo.core.persistence.trial_header import FIELDS  # noqa: PLC0415 - heavy to load

    found = []
    for part in (one.strip() for one in text.split(",")):
        if not part:
            continue
        field, equals, name = (piece.strip() for piece in part.partition("="))
        if not equals or not name or field not in FIELDS:
            raise InputError(
                f"“{part}” says no attribute of a header.",
                f"Write {HEADER_WORDS.split(': ')[1]}. There are {', '.join(FIELDS)}.",
            )
        found.append((field, name))
    return tuple(found)


def pattern_from(path: Path, root: Path, project: Project) -> str:
    """Return a pattern that a frame's path fits: its last number is the frame, and a shot's name the shot.

    Examples
    --------
    >>> from pemlo.core.project.delivery import Delivery
    >>> film = Project(title="x", start="2031-01-01T00:00Z", delivery=Delivery(deadline="2031-01-02T00:00Z"))
    >>> pattern_from(Path("/films/r/070/a.0012.exr"), Path("/films"), film)
    'r/070/a.{frame:04}.exr'
    """
    shown = path.relative_to(root).as_posix() if path.is_relative_to(root) else path.as_posix()
    folder, slash, name = shown.rpartition("/")
    stem, dot, ending = name.rpartition(".")
    found = list(re.finditer(r"\d+", stem))
    if found:
        last = found[-1]
        stem = f"{stem[: last.start()]}{{frame:0{len(last[0])}}}{stem[last.end() :]}"
    for shot in sorted(project.shots, key=lambda one: -len(one.name)):
        fits = re.compile(rf"(?<![^\W_]){re.escape(shot.name)}(?![^\W_])")
        if fits.search(folder) or fits.search(stem):
            return f"{fits.sub('{shot}', folder)}{slash}{fits.sub('{shot}', stem)}{dot}{ending}"
    return f"{folder}{slash}{stem}{dot}{ending}"


def _local(project: Project, now: Watching) -> str:
    assert now.launched is not None
    return f"{now.launched.astimezone(project.delivery.zone):%Y-%m-%d %H:%M}"
