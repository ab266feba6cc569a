"""Which shots are picked: one place for the whole window. GUI thread."""

from PySide6.QtCore import QObject, Signal

from pemlo.app.document import Document


class Selection(QObject):
    """The picked shots of a document; one at least while it has any, and none that is gone.

    Signals
    -------
    changed()
    """

    changed = Signal()

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self._picked: tuple[str, ...] = ()
        document.changed.connect(lambda _: self._follow())
        document.replaced.connect(self._begin)

    @property
    def shots(self) -> tuple[str, ...]:
        """Their names, the one that was picked first in front."""
        names = [shot.name for shot in self._document.project.shots]
        # What is asked before it is heard that a shot is gone is answered without it.
        return tuple(name for name in self._picked if name in names) or tuple(names[:1])

    @property
    def first(self) -> str:
        """The one that single things are shown of; empty if there is none."""
        return next(iter(self.shots), "")

    def pick(self, names: tuple[str, ...]) -> None:
        """Pick shots; what is shown of an earlier film may name some that are gone."""
        existing = {shot.name for shot in self._document.project.shots}
        self._set(tuple(name for name in names if name in existing) or self.shots)

    def _follow(self) -> None:
        self._set(self.shots)

    def _begin(self) -> None:
        self._picked = ()
        self._set(self.shots)

    def _set(self, names: tuple[str, ...]) -> None:
        if names != self._picked:
            self._picked = names
            self.changed.emit()
