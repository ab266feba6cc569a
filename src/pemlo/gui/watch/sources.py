"""Where frames come from: the folders that are watched, or the small farm. GUI thread."""

from pathlib import Path

from PySide6.QtWidgets import QDialog, QWidget

from pemlo.app.document import Document
from pemlo.app.picture_places import base_folder, folder_for
from pemlo.app.small_farm import SmallFarm
from pemlo.app.watcher import Watcher
from pemlo.core.project.watching import LogFile
from pemlo.gui.common.labels import button
from pemlo.gui.watch.farm_form import FarmForm, FarmWanted
from pemlo.gui.watch.log_form import LogForm
from pemlo.gui.watch.place_form import PlaceForm
from pemlo.gui.watch.watch_edits import WatchEdits


class FrameSources:
    """Asks for them, and sets them going."""

    def __init__(
        self,
        parent: QWidget,
        document: Document,
        watcher: Watcher,
        farm: SmallFarm,
        edits: WatchEdits,
    ) -> None:
        self._parent, self._document, self._watcher = parent, document, watcher
        self._farm, self._edits = farm, edits
        self.where = button("Where frames arrive…", "Folders, logs, headers, a status page", self.ask_place, link=True)
        self.pause = button("Pause", "Stop looking, or go on", self.toggle_pause, link=True)
        tip = "Have the film rendered by the farm that ships with Pemlo"
        self.farm_link = button("Try it with the small farm", tip, self.ask_farm, link=True)
        self.farm_button = button("Try it with the small farm", tip, self.ask_farm)
        document.changed.connect(self.follow)

    def follow(self, fields: frozenset[str]) -> None:
        """Let the small farm go on by the film as it stands."""
        if fields & {"shots", "machines", "watching", "running"}:
            self._farm.follow(self._document.project)

    def show(self) -> None:
        """Say on the buttons what they do now."""
        self.pause.setText("Go on" if self._watcher.paused else "Pause")
        self.farm_link.setText("Stop the small farm" if self._farm.running else "Try it with the small farm")

    def ask_place(self) -> None:
        """Ask where frames arrive."""
        root = base_folder(self._document.path)
        form = PlaceForm(self._parent, self._document.project, root, self._learn_log)
        if form.exec() == QDialog.DialogCode.Accepted:
            self._edits.set_watching(form.watching(), form.own_places())

    def _learn_log(self, path: Path, shown: str) -> LogFile | None:
        form = LogForm(self._parent, path, shown)
        return form.log if form.exec() == QDialog.DialogCode.Accepted else None

    def ask_farm(self) -> None:
        """Ask how the small farm is to render the film; stop it if it does."""
        if self._farm.running:
            self._farm.stop()
            self.show()
            return
        folder = folder_for(self._document.path).parent / "small farm"
        form = FarmForm(self._parent, self._document.project, folder)
        if form.exec() == QDialog.DialogCode.Accepted:
            self.begin_farm(form.wanted)

    def begin_farm(self, wanted: FarmWanted) -> None:
        """Have the film rendered, and watch it."""
        self._farm.start(
            self._document.project, wanted.folder, wanted.speed, wanted.faults, wanted.seed, self._on_begun
        )

    def _on_begun(self, place: str) -> None:
        self._edits.watch_farm(place)
        if self._watcher.paused:
            self._watcher.pause(paused=False)
        self.show()

    def toggle_pause(self) -> None:
        """Stop looking, or go on."""
        self._watcher.pause(paused=not self._watcher.paused)
