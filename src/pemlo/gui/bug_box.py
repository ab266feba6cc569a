"""Shows an error of Pemlo's own, with its details to be copied. GUI thread."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QMessageBox, QWidget


def show_bug(parent: QWidget, details: str) -> None:
    """Show an error of Pemlo's own; the project is as it was."""
    box = QMessageBox(parent)
    box.setIcon(QMessageBox.Icon.NoIcon)
    box.setWindowTitle("A bug in Pemlo")
    box.setTextFormat(Qt.TextFormat.PlainText)
    box.setText("Something went wrong inside Pemlo. Your project is as it was.")
    box.setInformativeText("Save it, and send the details to whoever looks after Pemlo.")
    box.setDetailedText(details)
    copy = box.addButton("Copy details", QMessageBox.ButtonRole.ActionRole)
    copy.clicked.connect(lambda: QGuiApplication.clipboard().setText(details))
    box.addButton(QMessageBox.StandardButton.Close)
    box.setModal(False)
    box.show()
