"""The form of a review movie: of what, how it looks, which words stand below. GUI thread."""

from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import (
    QCheckBox,
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QScrollArea,
    QSlider,
    QVBoxLayout,
    QWidget,
)

from pemlo.app.export_service import ExportService, MovieLook
from pemlo.core.editing.timecode import counts_drop, frame_of
from pemlo.core.errors import InputError
from pemlo.core.pixels.display import Display, Srgb, View
from pemlo.core.project.project import Project
from pemlo.core.units import counted
from pemlo.gui.common.choice import Choice
from pemlo.gui.common.enabling import enable
from pemlo.gui.common.labels import button, label
from pemlo.gui.handover.preview import as_image
from pemlo.handover.movie.codecs import Codec
from pemlo.handover.movie.make_movie import BURNED, Burned, Layout
from pemlo.handover.movie.order import MovieWish, Source

Ask = Callable[[int, Callable[[MovieLook], None]], None]


class MovieLookDialog(QDialog):
    """The dialog; it blocks only the form that asked for it.

    Parameters
    ----------
    parent : QWidget
    ask : callable
        Makes the picture of a number, and calls back with it.
    """

    def __init__(self, parent: QWidget, ask: Ask) -> None:
        super().__init__(parent)
        self.setWindowTitle("A picture of the movie")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self._ask = ask
        self.picture = label("Making it…", "second")
        self.picture.setAccessibleName("A picture of the movie")
        self.picture.setAlignment(Qt.AlignmentFlag.AlignCenter)
        scroll = QScrollArea()
        scroll.setWidget(self.picture)
        scroll.setWidgetResizable(True)
        scroll.setAccessibleName("The picture, at its real size")
        self.which = QSlider(Qt.Orientation.Horizontal)
        self.which.setAccessibleName("Which picture of the movie")
        enable(self.which, "No picture was found yet.")
        self.which.valueChanged.connect(self._on_moved)
        self.said = label("", "second", wrap=True)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 10, 12, 10)
        column.addWidget(scroll, 1)
        column.addWidget(self.which)
        below = QHBoxLayout()
        below.addWidget(self.said, 1)
        below.addWidget(button("Close", "Back to the form", self.accept))
        column.addLayout(below)
        self.resize(880, 640)
        self._on_moved(0)

    def _on_moved(self, number: int) -> None:
        self._ask(number, self._show)

    def _show(self, movie_look: MovieLook) -> None:
        if movie_look.picture is None or movie_look.order is None:
            self.picture.setText(movie_look.wrong)
            self.picture.setWordWrap(True)
            self.said.setText("")
            return
        order, shown = movie_look.order, movie_look.order.shown[movie_look.number]
        self.picture.setPixmap(QPixmap.fromImage(as_image(movie_look.picture)))
        self.which.setRange(0, len(order.shown) - 1)
        enable(self.which, "" if len(order.shown) > 1 else "There is one picture.")
        slates = f", {counted(order.missing, 'slate')} for missing frames" if order.missing else ""
        self.said.setText(
            f"{shown.shot}, frame {shown.frame}: picture {movie_look.number + 1} of {len(order.shown)}{slates}. "
            f"{'×'.join(map(str, order.whole_size))} px, {len(order.shown) / order.fps:.1f} s; before it is encoded."
        )


FINISHED, TRIALS, ELSEWHERE, NONE = "finished frames", "frames of trials", "frames elsewhere", "nothing"
SOURCES = (FINISHED, TRIALS, ELSEWHERE)
LAYOUTS: dict[str, Layout] = {"right of it, whole": "beside", "split: left half of the first": "split"}
WORDS = (
    "Frames that were not planned are held or mixed as the plan says; where one is missing, a slate says so. The movie "
    "is written whole or not at all."
)


class MovieForm(QDialog):
    """The form; what is wished is `wish`, and `path` where it goes.

    Parameters
    ----------
    parent : QWidget
    project : Project
    codecs : sequence of Codec
    picked : sequence of str
        Shots that are picked.
    view : tuple of str, optional
        Configuration, display and view that pictures are shown on.
    exports : ExportService
        Makes pictures of the movie to look at.
    """

    def __init__(
        self,
        parent: QWidget,
        project: Project,
        codecs: Sequence[Codec],
        picked: Sequence[str],
        view: tuple[str, str, str] | None,
        exports: ExportService,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Review movie")
        self._project, self._codecs, self._view, self._exports = project, tuple(codecs), view, exports
        self._picked = tuple(name for name in picked if any(one.name == name for one in project.on_screen))
        self.path: Path | None = None
        self._sound: Path | None = None
        known = bool(project.watching.place) or any(shot.place for shot in project.shots)
        self.source = Choice("Of", "Which pictures are shown", SOURCES)
        self.source.setCurrentText(FINISHED if known else TRIALS)
        self.place = QLineEdit(project.watching.place)
        self.place.setPlaceholderText("renders/{shot}/{shot}.{frame:04}.exr")
        self.beside = Choice("Beside it", "A second sequence of the same shots", (NONE, *SOURCES))
        self.beside_place = QLineEdit()
        self.beside_place.setPlaceholderText("before/{shot}/{shot}.{frame:04}.exr")
        self.layout_ = Choice("How", "Where the second sequence stands", tuple(LAYOUTS))
        names = [f"all {counted(len(project.on_screen), 'shot')}"]
        names += [f"only {', '.join(self._picked)}"] if self._picked else []
        self.shots = Choice("Shots", "Which shots are shown", names)
        self.codec = Choice(
            "Codec", "And what the file is called", [f"{codec.name} ({codec.ending})" for codec in codecs]
        )
        self.width_ = QLineEdit()
        self.width_.setPlaceholderText("as large as its pictures")
        self.timecode = QLineEdit("00:00:00:00")
        self.drop = QCheckBox("drop-frame")
        enable(
            self.drop, "" if counts_drop(project.delivery.fps) else "Only 29.97 and 59.94 frames a second drop numbers."
        )
        self.burned = {name: QCheckBox(name) for name in BURNED}
        for tick in self.burned.values():
            tick.setChecked(True)
        self.sound = label("none", "second")
        views = ["sRGB"] + ([f"{view[1]}, {view[2]}"] if view else [])
        self.view = Choice("Shown on", "From light to what is seen; Judge has the views of a configuration", views)
        self.view.setCurrentIndex(len(views) - 1)
        self.wrong = label("", "limit", small=True, wrap=True)
        self._lay_out()
        for choice in (self.source, self.beside):
            choice.currentTextChanged.connect(lambda _: self._show())
        self._show()

    def _lay_out(self) -> None:
        form = QFormLayout()
        form.setVerticalSpacing(6)
        burned = QHBoxLayout()
        for tick in self.burned.values():
            burned.addWidget(tick)
        burned.addStretch(1)
        time = QHBoxLayout()
        time.addWidget(self.timecode, 1)
        time.addWidget(self.drop)
        sound = QHBoxLayout()
        sound.addWidget(self.sound, 1)
        sound.addWidget(button("Choose…", "A WAV file", self._ask_sound, link=True))
        for name, field in (
            ("Of", self.source), ("Where they lie", self.place), ("Shots", self.shots), ("Beside it", self.beside),
            ("Where those lie", self.beside_place), ("How", self.layout_), ("Codec", self.codec),
            ("Width, px", self.width_), ("Shown on", self.view), ("Words below", burned), ("Timecode begins", time),
            ("Sound", sound),
        ):  # fmt: skip
            form.addRow(name, field)
        self._form = form
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        self.begin = button("Write the movie…", "Choose where it goes", self._begin, main=True)
        look = button("Look", "Pictures of it as they would be, with their words", self.look)
        buttons.addButton(look, QDialogButtonBox.ButtonRole.ActionRole)
        buttons.addButton(self.begin, QDialogButtonBox.ButtonRole.ActionRole)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.addWidget(label(WORDS, "second", small=True, wrap=True))
        column.addLayout(form)
        column.addWidget(self.wrong)
        column.addWidget(buttons)
        self.setMinimumWidth(520)

    def _show(self) -> None:
        self._form.setRowVisible(self.place, self.source.currentText() == ELSEWHERE)
        self._form.setRowVisible(self.beside_place, self.beside.currentText() == ELSEWHERE)
        self._form.setRowVisible(self.layout_, self.beside.currentText() != NONE)

    def _ask_sound(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Sound", "", "Sound (*.wav)")
        if name:
            self.take_sound(Path(name))

    def take_sound(self, path: Path) -> None:
        """Put sound under the movie."""
        self._sound = path
        self.sound.setText(path.name)

    @property
    def chosen_codec(self) -> Codec:
        return self._codecs[self.codec.currentIndex()]

    @property
    def wish(self) -> MovieWish:
        """What is wished.

        Raises
        ------
        InputError
            If a field cannot be read.
        """
        width = self.width_.text().strip()
        if width and not width.isdecimal():
            raise InputError(f"“{width}” is no width.", "Type px, or nothing.")
        burned: tuple[Burned, ...] = tuple(name for name in BURNED if self.burned[name].isChecked())
        return MovieWish(
            source=_source(self.source),
            place=_place(self.source, self.place),
            second=None if self.beside.currentText() == NONE else _source(self.beside),
            second_place=_place(self.beside, self.beside_place),
            layout=LAYOUTS[self.layout_.currentText()],
            shots=self._picked if self.shots.currentIndex() == 1 else (),
            width=int(width) if width else None,
            codec=self.chosen_codec.name,
            burned=burned,
            display=self._display(),
            first_frame=self._first_frame(),
            drop=self.drop.isChecked(),
            sound=self._sound,
        )

    def _display(self) -> Display:
        return View(*self._view) if self._view is not None and self.view.currentIndex() == 1 else Srgb()

    def _first_frame(self) -> int:
        text = self.timecode.text().strip() or "00:00:00:00"
        if self.drop.isChecked() and len(text) == 11:
            text = f"{text[:8]};{text[9:]}"
        try:
            return frame_of(text, self._project.delivery.fps)
        except ValueError as error:
            raise InputError(f"Timecode: {error}.") from error

    def look(self) -> None:
        """Show a picture of the movie as it would be."""
        wish, ending = self._readable(), self.chosen_codec.ending
        if wish is not None:
            seen = MovieLookDialog(self, lambda number, done: self._exports.look_at_movie(wish, ending, number, done))
            seen.finished.connect(self._exports.stop_looking)
            seen.open()

    def _readable(self) -> MovieWish | None:
        """Return what is wished, or say what cannot be read."""
        try:
            wish = self.wish
        except InputError as error:
            self.wrong.setText(str(error))
            return None
        self.wrong.setText("")
        return wish

    def _begin(self) -> None:
        if self._readable() is None:
            return
        ending = self.chosen_codec.ending
        name, _ = QFileDialog.getSaveFileName(self, "Write the movie", f"review{ending}", f"Movie (*{ending})")
        if name:
            self.path = Path(name if name.lower().endswith(ending) else name + ending)
            self.accept()


def _source(choice: Choice) -> Source:
    return "trials" if choice.currentText() == TRIALS else "frames"


def _place(choice: Choice, field: QLineEdit) -> str:
    """Return where frames lie that are elsewhere; nothing where that is known."""
    text = field.text().strip()
    if choice.currentText() != ELSEWHERE:
        return ""
    if not text:
        raise InputError("Where the frames lie is empty.", f"Write it like {field.placeholderText()}.")
    return text
