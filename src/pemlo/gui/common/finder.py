"""The finder: any action by its name (Ctrl+K). GUI thread."""

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QDialog, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from pemlo.app.actions import Action, matching
from pemlo.gui.common.plain import set_tip


class Finder(QDialog):
    """A line to type in and the actions that match; Enter runs the one that is marked."""

    def __init__(self, parent: QWidget, actions: tuple[Action, ...]) -> None:
        super().__init__(parent)
        self.setWindowTitle("Find an action")
        self.setMinimumWidth(460)
        self._actions = actions
        self.line = QLineEdit()
        self.line.setPlaceholderText("What do you want to do?")
        self.line.setAccessibleName("Find an action")
        self.list = QListWidget()
        self.list.setAccessibleName("Actions found")
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        column = QVBoxLayout(self)
        column.addWidget(self.line)
        column.addWidget(self.list)
        self.line.textChanged.connect(self._on_text)
        self.line.returnPressed.connect(self._on_return)
        self.list.itemClicked.connect(lambda _: self._on_return())
        self.line.installEventFilter(self)
        self._on_text("")

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            steps = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}
            if event.key() in steps and self.list.count():
                self.list.setCurrentRow((self.list.currentRow() + steps[Qt.Key(event.key())]) % self.list.count())
                return True
        return super().eventFilter(watched, event)

    def _on_text(self, words: str) -> None:
        self.list.clear()
        for action in matching(self._actions, words):
            if not action.enabled():
                continue
            item = QListWidgetItem(action.text + (f"   {action.shortcut}" if action.shortcut else ""))
            set_tip(item, action.tip)
            item.setData(Qt.ItemDataRole.UserRole, action.name)
            self.list.addItem(item)
        self.list.setCurrentRow(0)

    def _on_return(self) -> None:
        item = self.list.currentItem()
        self.accept()
        if item is not None:
            name = item.data(Qt.ItemDataRole.UserRole)
            next(action for action in self._actions if action.name == name).run()
