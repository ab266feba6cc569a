"""The stage Hand-over: checked before the launch, explained to everybody, delivered at the end. GUI thread."""

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import QDialog, QFileDialog, QHBoxLayout, QVBoxLayout, QWidget

from pemlo.app.document import Document
from pemlo.app.film_state import FilmForecast
from pemlo.app.hand_outs import HandOuts, Written
from pemlo.app.launch_checker import CheckedLaunch, LaunchChecker
from pemlo.app.preferences import Preferences
from pemlo.app.renderings import Rendering
from pemlo.app.selection import Selection
from pemlo.app.table_reader import TableReader
from pemlo.core.errors import InputError, PemloError
from pemlo.core.handover.command_lines import check_template
from pemlo.core.handover.outputs import USUAL
from pemlo.core.project.project import Project
from pemlo.core.project.scenes import scene_of
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.shots import Shot
from pemlo.core.units import counted, round_figures
from pemlo.gui.common.ghost import lay_out_empty
from pemlo.gui.common.labels import button, label, rule
from pemlo.gui.handover.checks_box import ChecksBox
from pemlo.gui.handover.handover_edits import HandoverEdits
from pemlo.gui.handover.launch_box import LaunchBox
from pemlo.gui.handover.outputs_box import Group, OutputsBox
from pemlo.gui.handover.preview import PreviewDialog

if TYPE_CHECKING:
    from pemlo.core.handover.movie.codecs import Codec
    from pemlo.core.handover.movie.make_movie import MovieMade
    from pemlo.core.handover.paper import U8

EMPTY = (
    "What is launched is checked here against the brief and the plan, and handed over: settings to those who enter "
    "them, the case to those who decide, a movie to look at. It begins with shots in the brief."
)


class HandoverPanel(QWidget):
    """The panel.

    Signals
    -------
    shot_wanted(str), shots_wanted(tuple of str)
    brief_wanted()
    render_wanted(str, int, FrameSettings)
        A first frame is to be rendered: of which shot, which, and how.
    """

    shot_wanted = Signal(str)
    shots_wanted = Signal(object)
    brief_wanted = Signal()
    render_wanted = Signal(str, int, object)

    def __init__(
        self,
        document: Document,
        selection: Selection,
        checker: LaunchChecker,
        outs: HandOuts,
        preferences: Preferences,
        report: Callable[[PemloError], None],
        tables: TableReader,
    ) -> None:
        super().__init__()
        self._document, self._selection, self._checker, self._outs = document, selection, checker, outs
        self._preferences, self._report = preferences, report
        self._awaited: dict[str, tuple[int, FrameSettings]] = {}
        self.edits = HandoverEdits(document, report)
        self.checks = ChecksBox(self.edits, preferences)
        self.launch = LaunchBox(document, self.edits, report, tables)
        usual = preferences.usual_outputs
        self.outputs = OutputsBox(USUAL if usual is None else usual, preferences.command_template)
        outs.template = preferences.command_template
        self._lay_out()
        checker.checked.connect(lambda _: self._show_checked())
        self.checks.shot_wanted.connect(self.shot_wanted)
        self.checks.first_frame_wanted.connect(self.ask_first_frame)
        self.checks.render_wanted.connect(self.render_first_frame)
        self.launch.picked.connect(self.shots_wanted)
        self.outputs.look_wanted.connect(lambda group: self._guarded(lambda: self.look(group)))
        self.outputs.usual_changed.connect(self._on_usual)
        self.outputs.template_changed.connect(self._on_template)
        self.outputs.hand_over_wanted.connect(self.ask_folder)
        self.outputs.movie_wanted.connect(self.ask_movie)
        self.outputs.pack_wanted.connect(self.ask_pack)

    def _lay_out(self) -> None:
        self.stage = QWidget()
        row = QHBoxLayout(self.stage)
        row.setContentsMargins(18, 10, 0, 8)
        row.setSpacing(12)
        row.addWidget(self.checks, 2)
        row.addWidget(rule(upright=True))
        row.addWidget(self.launch, 3)
        row.addWidget(rule(upright=True))
        row.addWidget(self.outputs, 1)
        self.nothing, empty = QWidget(), label(EMPTY, wrap=True)
        begin = button("Say what the film is", "Open the brief", self.brief_wanted.emit, main=True)
        lay_out_empty(self.nothing, empty, begin, "frames")
        both = QVBoxLayout(self)
        both.setContentsMargins(0, 0, 0, 0)
        both.addWidget(self.stage)
        both.addWidget(self.nothing)

    # What every stage can do

    def show_project(self, project: Project, answer: FilmForecast | None) -> None:  # noqa: ARG002 - as every stage
        """Show a project; what the checks find is shown as it is found."""
        self.stage.setVisible(bool(project.shots))
        self.nothing.setVisible(not project.shots)
        self.launch.show_project(project)
        self.launch.pick(self._selection.shots)
        self.checks.show_project(project)
        self._checker.ask()
        self._show_checked()

    def first_focus(self) -> QWidget:
        """Return what has the keys when the stage is opened."""
        return self.launch.table

    def pick(self, names: tuple[str, ...]) -> None:
        """Show other shots."""
        self.launch.pick(names)
        self._show_checked()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._checker.look(on=True)

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._checker.look(on=False)

    @property
    def found(self) -> CheckedLaunch | None:
        """What was found last, if that is of the shots that the film has now."""
        last = self._checker.last
        shots = [shot.name for shot in self._document.project.shots]
        return last if last is not None and [shot.name for shot in last.project.shots] == shots else None

    def _show_checked(self) -> None:
        found = self.found
        self.checks.show_checked(self._document.project, found, self._selection.shots)
        self._outs.findings = () if found is None else found.findings

    def _guarded(self, act: Callable[[], None]) -> None:
        try:
            act()
        except PemloError as error:
            self._report(error)

    # The first frame

    def ask_first_frame(self) -> None:
        """Ask for frames that were rendered with launch settings: one of the picked shot, or some that name theirs."""
        pictures = "Pictures (*.exr *.png *.tif *.tiff *.jpg *.jpeg)"
        names, _ = QFileDialog.getOpenFileNames(self, "First frames, rendered as launched", "", pictures)
        self.take_first_frames([Path(name) for name in names])

    def take_first_frames(self, paths: Sequence[Path]) -> None:
        """Hold frames against the plan: a single one is of the picked shot, others say their shots in their names."""
        from pemlo.core.preflight.first_frame import shots_of_files  # noqa: PLC0415 - heavy to load

        picked = self._picked_shots()
        if len(paths) == 1 and len(picked) == 1:
            self._checker.take_first_frame(picked[0].name, paths[0])
            return
        found, left = shots_of_files(self._document.project, paths)
        for shot, path in found.items():
            self._checker.take_first_frame(shot, path)
        if left:
            names = ", ".join(path.name for path in left[:5])
            hint = "Pick its shot, and choose it alone; or call it after its shot."
            self._report(InputError(f"Of which shot these are is not known: {names}.", hint))

    def render_first_frame(self) -> None:
        """Have the first frames of the picked shots rendered as they are launched."""
        from pemlo.core.preflight.first_frame import frame_to_render  # noqa: PLC0415 - heavy to load

        picked = self._picked_shots()
        if not picked:
            self._report(InputError("No shot is picked.", "Click one on the strip or in the table."))
        for shot in picked:
            if not scene_of(shot):
                hint = "Choose its first frame instead."
                self._report(InputError(f"Shot {shot.name} has no scene to render.", hint))
                continue
            frame, settings = frame_to_render(self._document.project, shot.name)
            self._awaited[shot.name] = frame, settings
            self.render_wanted.emit(shot.name, frame, settings)

    def _picked_shots(self) -> list[Shot]:
        return [shot for shot in self._document.project.shots if shot.name in self._selection.shots]

    def on_rendered(self, done: Rendering) -> None:
        """Hold a frame against the plan if it is a first frame that was waited for."""
        if self._awaited.get(done.shot) == (done.frame, done.settings):
            del self._awaited[done.shot]
            self._checker.take_first_frame(done.shot, done.picture)

    # What is handed over

    def _on_usual(self, keys: list[str]) -> None:
        self._preferences.usual_outputs = keys

    def _on_template(self, text: str) -> None:
        try:
            if text.strip():
                check_template(text)
        except InputError as error:
            self.outputs.say_wrong(str(error))
            return
        self.outputs.say_wrong("")
        self._outs.template = self._preferences.command_template = text.strip()

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
            return PreviewDialog(self, group.name, saves)

        if group.look.endswith(".pdf"):

            def pages(made: "tuple[U8, ...]", _data: bytes) -> None:
                shown().show_pages(made)

            self._outs.preview_pages(group.look, pages)
        else:
            self._outs.preview_text(group.look, lambda words: shown().show_text(words))

    def _save_one(self, key: str) -> None:
        folder = QFileDialog.getExistingDirectory(self, f"Write {key} into a folder")
        if folder:
            self._guarded(lambda: self._outs.write([key], Path(folder), self._say_written))

    def ask_folder(self) -> None:
        """Ask for a folder, and write all that is ticked into it."""
        folder = QFileDialog.getExistingDirectory(self, "Hand over into a folder")
        if folder:
            self.hand_over(Path(folder))

    def hand_over(self, folder: Path) -> None:
        """Write all that is ticked into a folder."""
        self._on_template(self.outputs.template.text())
        self._guarded(lambda: self._outs.write(self.outputs.usual, folder, self._say_written))

    def _say_written(self, found: Written) -> None:
        paths, left = found
        where = f" in {paths[0].parent.name}" if paths else ""
        words = f"{counted(len(paths), 'file')} written{where}."
        self.outputs.said.setText(" ".join([words, *left]))

    def ask_movie(self) -> None:
        """Ask what movie is wanted, and write it; what writes movies is loaded first, which holds nothing up."""
        self._outs.codecs(self._ask_movie)

    def _ask_movie(self, codecs: "Sequence[Codec]") -> None:
        from pemlo.gui.handover.movie_form import MovieForm  # noqa: PLC0415 - heavy to load

        view = self._preferences.colour_view
        form = MovieForm(self, self._document.project, codecs, self._selection.shots, view, self._outs)
        if form.exec() == QDialog.DialogCode.Accepted and form.path is not None:
            path = form.path
            self._guarded(lambda: self._outs.movie(form.wish, path, lambda made: self._say_movie(path, made)))

    def _say_movie(self, path: Path, made: "MovieMade") -> None:
        lacks = f", {counted(made.missing, 'slate')} for what is missing" if made.missing else ""
        self.outputs.said.setText(
            f"{path.name}: {counted(made.frames, 'frame')}{lacks}. {' '.join(made.damaged)}".strip()
        )

    def ask_pack(self) -> None:
        """Say what the whole project weighs, and ask where it goes."""
        self._outs.weigh(self._on_weighed)

    def _on_weighed(self, mib: float, files: int, missing: int, left_aside: int) -> None:
        lacks = f"; {counted(missing, 'picture')} not there" if missing else ""
        lacks += f"; {counted(left_aside, 'file')} left out, not pictures" if left_aside else ""
        words = f"{counted(files, 'picture file')}, {round_figures(mib)} MiB{lacks}"
        self.outputs.said.setText(f"The whole project: {words}.")
        name, _ = QFileDialog.getSaveFileName(self, f"Whole project ({words}) as a folder", "project", "Folder (*)")
        if name:
            self._outs.pack(Path(name), self._say_packed)

    def _say_packed(self, path: Path) -> None:
        self.outputs.said.setText(f"{path.parent.name}: written, with {path.name} in it.")
