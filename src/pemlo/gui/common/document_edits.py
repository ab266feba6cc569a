"""Changes of the document that come from a stage, each under its name. GUI thread."""

from collections.abc import Callable

from pemlo.app.document import Document
from pemlo.core.errors import PemloError
from pemlo.core.project.project import Project


class DocumentEdits:
    """Makes changes under their names; what is refused is reported, and nothing is lost."""

    def __init__(self, document: Document, report: Callable[[PemloError], None]) -> None:
        self._document, self._report = document, report

    def _edit(self, text: str, change: Callable[[Project], Project]) -> None:
        try:
            self._document.edit(text, change)
        except PemloError as error:
            self._report(error)
