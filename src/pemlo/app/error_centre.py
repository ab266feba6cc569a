"""Where errors end: one place with the hooks of Python, threads and Qt. Lives on the GUI thread.

Expected trouble is shown in a line that blocks nothing; a bug is shown with its details and keeps the project.
"""

import sys
import threading
import traceback
from types import TracebackType

from PySide6.QtCore import QObject, QtMsgType, Signal, qInstallMessageHandler

from pemlo import __version__
from pemlo.app.jobs import is_expected
from pemlo.core.errors import PemloError


class ErrorCentre(QObject):
    """Takes errors from everywhere.

    Signals
    -------
    trouble(str, str)
        Something a person can mend: message and hint.
    bug(str)
        Details of an error that is Pemlo's own.
    """

    trouble = Signal(str, str)
    bug = Signal(str)

    def install(self) -> None:
        """Take over the hooks."""
        sys.excepthook = self._on_exception
        threading.excepthook = lambda args: self._on_exception(args.exc_type, args.exc_value, args.exc_traceback)
        qInstallMessageHandler(_on_qt_message)

    def report(self, error: BaseException) -> None:
        """Tell of an error."""
        if isinstance(error, PemloError) and is_expected(error):
            self.trouble.emit(error.message, error.hint)
            return
        details = "".join(traceback.format_exception(error))
        sys.stderr.write(details)
        self.bug.emit(f"Pemlo {__version__}, Python {sys.version.split()[0]}\n\n{details}")

    def _on_exception(
        self, kind: type[BaseException], error: BaseException | None, trace: TracebackType | None
    ) -> None:
        if kind is KeyboardInterrupt:
            sys.__excepthook__(kind, error or KeyboardInterrupt(), trace)
        elif error is not None:
            self.report(error)


def _on_qt_message(kind: QtMsgType, context: object, message: str) -> None:  # noqa: ARG001 - Qt's signature
    if kind != QtMsgType.QtDebugMsg:
        sys.stderr.write(f"Qt: {message}\n")
