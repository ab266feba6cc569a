"""The line above the pictures: which two, and what is made of them. GUI thread."""

from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFileDialog, QFrame, QHBoxLayout

from pemlo.core.files.header import PICTURE_ENDINGS
from pemlo.gui.common.choice import Choice as Picker
from pemlo.gui.common.enabling import enable
from pemlo.gui.common.labels import button
from pemlo.gui.judge.presenter import PictureChoice

A_FILE = "another file…"
PICTURES, LADDER, TRIALS, SHOTS = "pictures", "ladder sheet", "every trial", "every shot"
ERRORS = "error by samples"
MARKING = (TRIALS, SHOTS)  # pages whose tiles are marked where they stand
PAGES = (PICTURES, LADDER, TRIALS, SHOTS, ERRORS)


class PictureRow(QFrame):
    """Chooses a left and a right picture among trials and files.

    Signals
    -------
    picked(str, PictureChoice)
        Side, and the picture; None where the question for a file was left.
    swapped()
    page_chosen(str)
    """

    picked = Signal(str, object)
    swapped = Signal()
    page_chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("onpicture")
        self._files: dict[Path, PictureChoice] = {}
        self._offered: tuple[PictureChoice, ...] = ()
        self.left, self.right = (self._picker(side) for side in ("left", "right"))
        tip = "The pictures; all trials of the frame (L); tiles to mark (S); what other settings would leave (E)"
        self.page = Picker("Page", tip, PAGES)
        self.page.activated.connect(lambda _: self.page_chosen.emit(self.page.currentText()))
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 5, 10, 5)
        row.addWidget(self.left, 3)
        row.addWidget(button("Swap sides", "The left picture to the right", self.swapped.emit, link=True))
        row.addWidget(self.right, 3)
        row.addWidget(self.page)

    def _picker(self, side: str) -> Picker:
        name = f"{side.capitalize()} picture"
        made = Picker(name, f"{name}: a trial of this shot with its picture, or any file")
        made.setSizeAdjustPolicy(Picker.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        made.setMinimumContentsLength(14)
        made.activated.connect(lambda index: self._on_activated(side, index))
        return made

    def show_choices(
        self, trials: tuple[PictureChoice, ...], left: PictureChoice | None, right: PictureChoice | None
    ) -> None:
        """Offer trials and the files that were taken, of which two are shown."""
        self._offered = (*trials, *self._files.values())
        for picker, choice in ((self.left, left), (self.right, right)):
            picker.clear()
            picker.addItems([*(one.name for one in self._offered), A_FILE])
            picker.setCurrentIndex(self._offered.index(choice) if choice in self._offered else -1)

    @property
    def any(self) -> bool:
        """Whether there is anything to look at."""
        return bool(self._offered)

    def hide_names(self, *, hidden: bool) -> None:
        """Let nobody choose, nor read, while it is hidden which picture is which."""
        for picker in (self.left, self.right):
            enable(picker, "Hidden while you mark blind." if hidden else "")

    def take_file(self, path: Path, name: str = "") -> PictureChoice:
        """Offer a file beside the trials, under its own name unless another is given."""
        self._files[path] = PictureChoice(name or path.name, path)
        return self._files[path]

    def _on_activated(self, side: str, index: int) -> None:
        self.picked.emit(side, self._offered[index] if index < len(self._offered) else self._ask_for_file())

    def _ask_for_file(self) -> PictureChoice | None:
        kinds = " ".join("*" + ending for ending in PICTURE_ENDINGS)
        name, _ = QFileDialog.getOpenFileName(self, "Show a picture", "", f"Pictures ({kinds});;All files (*)")
        return self.take_file(Path(name)) if name else None
