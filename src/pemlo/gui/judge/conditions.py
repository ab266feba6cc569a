"""How pictures are shown and measured: on which display, what files hold, from where they are seen. GUI thread."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QFileDialog, QGridLayout, QInputDialog, QWidget

from pemlo.app.preferences import Preferences
from pemlo.core.errors import PemloError
from pemlo.core.project.viewing import VIEWING_CONDITIONS
from pemlo.gui.common.choice import Choice
from pemlo.gui.common.labels import label
from pemlo.gui.common.plain import set_tip

View = tuple[str, str, str]
SRGB, A_VIEW = "sRGB", "a view…"
BY_FORMAT, LIGHT, CODES = "by format", "light", "display levels"
HOLDS = {BY_FORMAT: None, LIGHT: True, CODES: False}
OWN = "own…"


@dataclass(frozen=True)
class Conditions:
    """How pictures are read, shown and measured.

    Attributes
    ----------
    view : tuple of str, optional
        Configuration, display and view; sRGB without.
    linear : bool, optional
        Whether files hold light; None to tell by their format.
    as_seen : bool
        Whether numbers are of what an eye sees from the seat.
    """

    view: View | None = None
    linear: bool | None = None
    as_seen: bool = False


class ConditionsForm(QWidget):
    """The choices.

    Signals
    -------
    changed(Conditions)
    seat_chosen(str)
        From where the film will be seen: kept with the project.
    """

    changed = Signal(object)
    viewing_chosen = Signal(str)

    def __init__(self, preferences: Preferences, report: Callable[[PemloError], None]) -> None:
        super().__init__()
        self._preferences, self._report = preferences, report
        self.now = Conditions(view=preferences.colour_view)
        self._views: dict[str, View] = {}
        self.display = Choice("Shown on", "sRGB, or a view of a colour configuration", (SRGB, A_VIEW))
        self.holds = Choice("Files hold", "Light in floating point, display levels else; or as you say", tuple(HOLDS))
        self.viewing = Choice(
            "Seen from",
            "Where the film will be watched",
            (*(viewing_condition.name for viewing_condition in VIEWING_CONDITIONS), OWN),
        )
        self.as_seen = QCheckBox("numbers as seen from there")
        set_tip(self.as_seen, "Grain and error of the picture as small as an eye sees it from that seat")
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(4)
        grid.setColumnStretch(1, 1)
        rows = (("shown on", self.display), ("files hold", self.holds), ("seen from", self.viewing))
        for row, (words, field) in enumerate(rows):
            grid.addWidget(label(words, "second"), row, 0)
            grid.addWidget(field, row, 1)
        grid.addWidget(self.as_seen, len(rows), 0, 1, 2)
        if self.now.view is not None:
            self._offer(self.now.view)
        self.display.activated.connect(lambda _: self._on_display())
        self.holds.activated.connect(lambda _: self._change(linear=HOLDS[self.holds.currentText()]))
        self.viewing.activated.connect(lambda _: self._on_viewing())
        self.as_seen.toggled.connect(lambda on: self._change(as_seen=on))

    def show_viewing(self, viewing: str) -> None:
        """Show from where the film will be seen."""
        words = viewing if self.viewing.findText(viewing) >= 0 else f"{viewing} px a degree"
        if self.viewing.findText(words) < 0:
            self.viewing.insertItem(self.viewing.count() - 1, words)
        self.viewing.setCurrentText(words)

    def _change(self, **changes: object) -> None:
        self.now = replace(self.now, **changes)  # type: ignore[arg-type]
        self._preferences.colour_view = self.now.view
        self.changed.emit(self.now)

    def _on_viewing(self) -> None:
        words = self.viewing.currentText()
        if words == OWN:
            ask = "Pixels of the picture in one degree"
            number, sure = QInputDialog.getDouble(self, "Seen from", ask, 60, 1, 400, 1)
            if sure:
                self.viewing_chosen.emit(f"{number:g}")
            return
        self.viewing_chosen.emit(words.removesuffix(" px a degree"))

    def _on_display(self) -> None:
        chosen = self.display.currentText()
        if chosen != A_VIEW:
            self._change(view=self._views.get(chosen))
            return
        name, _ = QFileDialog.getOpenFileName(self, "A colour configuration", "", "OpenColorIO (*.ocio);;All files (*)")
        view = self._ask_for_view(Path(name)) if name else None
        if view is None:
            self.display.setCurrentText(SRGB if self.now.view is None else _words(self.now.view))
            return
        self._offer(view)
        self._change(view=view)

    def _offer(self, view: View) -> None:
        if _words(view) not in self._views:
            self.display.insertItem(1, _words(view))
        self._views[_words(view)] = view
        self.display.setCurrentText(_words(view))

    def _ask_for_view(self, configuration: Path) -> View | None:
        from pemlo.core.pixels.display import views_of  # noqa: PLC0415 - heavy to load

        try:
            views = views_of(configuration)
        except PemloError as error:
            self._report(error)
            return None
        names = [f"{display} / {view}" for display, view in views]
        chosen, sure = QInputDialog.getItem(self, "Shown on", "Display / view", names, 0, editable=False)
        return (str(configuration), *views[names.index(chosen)]) if sure else None


def _words(view: View) -> str:
    return f"{view[1]} / {view[2]}"
