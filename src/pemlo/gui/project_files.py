"""Opening, leaving, dropping and recovering projects, with the questions that go with it. GUI thread."""

from collections.abc import Callable
from datetime import datetime, timedelta
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

import tzlocal
from PySide6.QtWidgets import QFileDialog, QMenu, QMessageBox

from pemlo.app.recovery import Kept, left_behind
from pemlo.core.persistence.csv_machines import write_machines
from pemlo.core.persistence.csv_shots import write_shots
from pemlo.core.persistence.csv_trials import write_trials
from pemlo.core.persistence.picture_names import with_short_names
from pemlo.core.persistence.whole_files import write_whole
from pemlo.core.project.delivery import Delivery, zone
from pemlo.core.project.launch import OwnCheck
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project
from pemlo.demo import demo_project
from pemlo.gui.common.plain import as_entry
from pemlo.gui.saving import FILTER, SavingFiles, question

if TYPE_CHECKING:
    from pemlo.gui.window import Window

WRITERS: dict[str, Callable[[Project], str]] = {
    "shots": write_shots,
    "trials": write_trials,
    "machines": write_machines,
}


def empty_project() -> Project:
    """Return a project with nothing in it yet, due in a week at 18:00, and one machine."""
    name = tzlocal.get_localzone_name() or "UTC"
    now = datetime.now(zone(name)).replace(second=0, microsecond=0)
    return Project(
        title="Untitled film",
        start=now,
        starts_now=True,
        delivery=Delivery(timezone=name, deadline=(now + timedelta(days=7)).replace(hour=18, minute=0)),
        machines=(Machine(name="reference"),),
    )


class ProjectFiles:
    """What a window does with files."""

    def __init__(self, window: "Window") -> None:
        self._window = window
        self.saving = SavingFiles(window)

    def new(self) -> None:
        if self.may_leave():
            lines = tuple(OwnCheck(words=words) for words in self._window.preferences.own_lines)
            self._window.document.replace(empty_project().replace(own_checks=lines), None)

    def open(self) -> None:
        if not self.may_leave():
            return
        name, _ = QFileDialog.getOpenFileName(self._window, "Open a project", "", FILTER)
        if name:
            self.open_path(Path(name))

    def open_path(self, path: Path) -> None:
        """Open a project; the one that is open stays if it cannot be read."""
        self._window.document.open(path)
        self._window.preferences.add_recent(path)

    def open_demo(self) -> None:
        if self.may_leave():
            self._window.document.replace(demo_project(), None)

    def write(self, what: str) -> None:
        """Write a table as CSV."""
        name, _ = QFileDialog.getSaveFileName(self._window, f"Write {what} as CSV", f"{what}.csv", "CSV (*.csv)")
        if name:
            path = Path(name)
            write_whole(WRITERS[what](with_short_names(self._window.document.project, path.parent)), path)

    def recent(self) -> tuple[Path, ...]:
        """Return the projects that were opened last, but for those of which it is known that they are gone."""
        written, paths = self._window.written, self._window.preferences.recent()
        return tuple(path for path in paths if not (written.known((path,)) and written.of(path) is None))

    def open_chosen(self, path: Path | None) -> None:
        """Open a project that was open before; with none, ask which."""
        if path is None:
            self.open()
        else:
            self.open_if_may(path)

    def fill_recent(self, menu: QMenu) -> None:
        """Offer the projects that were opened last."""
        menu.clear()
        for path in self.recent():
            action = menu.addAction(as_entry(f"{path.stem}   {path.parent}"))
            action.triggered.connect(lambda _=False, path=path: self._window.run(lambda: self.open_if_may(path)))
        if menu.isEmpty():
            menu.addAction("none yet").setEnabled(False)

    def open_if_may(self, path: Path) -> None:
        """Open a project, once unsaved changes are settled."""
        if self.may_leave():
            self.open_path(path)

    def may_leave(self) -> bool:
        """Ask what becomes of unsaved changes; False if the person wants to stay."""
        self.saving.wait_until_saved()
        if not self._window.document.unsaved:
            return True
        answer = self.ask_unsaved()
        if answer == QMessageBox.StandardButton.Save:
            self._window.run(self.saving.save)
            self.saving.wait_until_saved()
            return not self._window.document.unsaved
        return answer == QMessageBox.StandardButton.Discard

    def ask_unsaved(self) -> QMessageBox.StandardButton:
        buttons = QMessageBox.StandardButton
        title = self._window.document.project.title
        box = question(self._window, "Unsaved changes", f"“{title}” has changes that are not saved.")
        box.setStandardButtons(buttons.Save | buttons.Discard | buttons.Cancel)
        box.setDefaultButton(buttons.Save)
        return buttons(box.exec())

    def offer_recovery(self) -> None:
        """Offer the newest copy that a crash left behind."""
        for kept in left_behind()[:1]:
            where = kept.path.name if kept.path is not None else "never saved"
            self._window.problems.tell(
                f"Pemlo ended without saving “{kept.project.title}” ({where}). A copy was kept.",
                "Opening it changes no file until you save.",
                "Open the copy",
                partial(self._recover, kept),
            )

    def _recover(self, kept: Kept) -> None:
        if self.may_leave():
            self._window.document.replace(kept.project, kept.path, unsaved=True)
            # The old copy goes when the new one is written, and not before.
            self._window.recovery.keep(then=kept.remove)
