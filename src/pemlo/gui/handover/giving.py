"""What is handed over: looked at, written into a folder, made into a movie, packed whole. GUI thread."""

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QDialog, QFileDialog, QWidget

from pemlo.app.document import Document
from pemlo.app.export_service import ExportService, Written
from pemlo.app.preferences import Preferences
from pemlo.app.selection import Selection
from pemlo.core.errors import InputError, PemloError
from pemlo.core.units import counted, round_figures
from pemlo.gui.handover.outputs_box import Group, OutputsBox
from pemlo.gui.handover.preview import PreviewDialog
from pemlo.handover.command_lines import check_template

if TYPE_CHECKING:
    from pemlo.handover.movie.codecs import Codec
    from pemlo.handover.movie.make_movie import MovieMade
    from pemlo.handover.paper import U8

PRINT_DPI = 200.0


class Giving:
    """Asks what and where to, has it made, and says what was."""

    def __init__(
        self,
        parent: QWidget,
        document: Document,
        selection: Selection,
        exports: ExportService,
        outputs: OutputsBox,
        preferences: Preferences,
        report: Callable[[PemloError], None],
    ) -> None:
        self._parent, self._document, self._selection = parent, document, selection
        self._exports, self.outputs, self._preferences, self._report = exports, outputs, preferences, report
        exports.template = preferences.command_template
        outputs.look_wanted.connect(lambda group: self._guarded(lambda: self.look(group)))
        outputs.usual_changed.connect(lambda keys: setattr(preferences, "usual_outputs", keys))
        outputs.template_changed.connect(self._on_template)
        outputs.hand_over_wanted.connect(self.ask_folder)
        outputs.movie_wanted.connect(self.ask_movie)
        outputs.pack_wanted.connect(self.ask_pack)

    def _guarded(self, act: Callable[[], None]) -> None:
        try:
            act()
        except PemloError as error:
            self._report(error)

    def _on_template(self, text: str) -> None:
        try:
            if text.strip():
                check_template(text)
        except InputError as error:
            self.outputs.say_wrong(str(error))
            return
        self.outputs.say_wrong("")
        self._exports.template = self._preferences.command_template = text.strip()

    def look(self, group: Group) -> None:
        """Show what would be handed over.

        Raises
        ------
        InputError
            While the forecast is on its way.
        """
        self._on_template(self.outputs.template.text())
        saves = [(f"Save {name}…", lambda key=key: self._save_one(key)) for key, name in group.files]

        def shown() -> PreviewDialog:
            return PreviewDialog(self._parent, group.name, saves)

        if group.look.endswith(".pdf"):

            def pages(made: "tuple[U8, ...]", data: bytes) -> None:
                dialog = shown()
                dialog.show_pages(made)
                lies = bool(made) and made[0].shape[1] > made[0].shape[0]
                dialog.print_wanted.connect(lambda: self._print(group.name, data, landscape=lies))

            self._exports.preview_pages(group.look, pages)
        else:
            self._exports.preview_text(group.look, lambda words: shown().show_text(words))

    def _print(self, name: str, data: bytes, *, landscape: bool) -> None:
        from pemlo.gui.printing import ask_to_print, paint_pages  # noqa: PLC0415 - only where something is printed

        def ask(pages: "tuple[U8, ...]") -> None:
            ask_to_print(
                self._parent, name, lambda printer: self._guarded(lambda: paint_pages(printer, pages)),
                landscape=landscape,
            )  # fmt: skip

        self._exports.paper(data, PRINT_DPI, ask)

    def _save_one(self, key: str) -> None:
        folder = QFileDialog.getExistingDirectory(self._parent, f"Write {key} into a folder")
        if folder:
            self._guarded(lambda: self._exports.write([key], Path(folder), self._say_written))

    def ask_folder(self) -> None:
        """Ask for a folder, and write all that is ticked into it."""
        folder = QFileDialog.getExistingDirectory(self._parent, "Hand over into a folder")
        if folder:
            self.hand_over(Path(folder))

    def hand_over(self, folder: Path) -> None:
        """Write all that is ticked into a folder."""
        self._on_template(self.outputs.template.text())
        self._guarded(lambda: self._exports.write(self.outputs.usual, folder, self._say_written))

    def _say_written(self, found: Written) -> None:
        paths, left = found
        where = f" in {paths[0].parent.name}" if paths else ""
        words = f"{counted(len(paths), 'file')} written{where}."
        self.outputs.said.setText(" ".join([words, *left]))

    def ask_movie(self) -> None:
        """Ask what movie is wanted, and write it; what writes movies is loaded first, which holds nothing up."""
        self._exports.codecs(self._ask_movie)

    def _ask_movie(self, codecs: "Sequence[Codec]") -> None:
        from pemlo.gui.handover.movie_form import MovieForm  # noqa: PLC0415 - heavy to load

        view = self._preferences.colour_view
        form = MovieForm(self._parent, self._document.project, codecs, self._selection.shots, view, self._exports)
        if form.exec() == QDialog.DialogCode.Accepted and form.path is not None:
            path = form.path
            self._guarded(lambda: self._exports.movie(form.wish, path, lambda made: self._say_movie(path, made)))

    def _say_movie(self, path: Path, made: "MovieMade") -> None:
        lacks = f", {counted(made.missing, 'slate')} for missing files" if made.missing else ""
        self.outputs.said.setText(
            f"{path.name}: {counted(made.frames, 'frame')}{lacks}. {' '.join(made.damaged)}".strip()
        )

    def ask_pack(self) -> None:
        """Say what the whole project weighs, and ask where it goes."""
        self._exports.weigh(self._on_weighed)

    def _on_weighed(self, mib: float, files: int, missing: int, left_aside: int) -> None:
        lacks = f"; {counted(missing, 'picture')} not there" if missing else ""
        lacks += f"; {counted(left_aside, 'file')} left out, not pictures" if left_aside else ""
        words = f"{counted(files, 'picture file')}, {round_figures(mib)} MiB{lacks}"
        self.outputs.said.setText(f"The whole project: {words}.")
        name, _ = QFileDialog.getSaveFileName(
            self._parent, f"Whole project ({words}) as a folder", "project", "Folder (*)"
        )
        if name:
            self._exports.pack(Path(name), self._say_packed)

    def _say_packed(self, path: Path) -> None:
        self.outputs.said.setText(f"{path.parent.name}: written, with {path.name} in it.")
