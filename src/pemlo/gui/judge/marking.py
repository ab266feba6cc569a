"""Sets a mark in the document, with the error that was measured then. GUI thread."""

from collections.abc import Callable

from pemlo.app.document import Document
from pemlo.core.errors import InputError, PemloError
from pemlo.gui.judge import presenter
from pemlo.gui.judge.blind import Blind
from pemlo.gui.judge.judgement import Judgement
from pemlo.gui.judge.measure.findings import Findings
from pemlo.gui.judge.presenter import PictureChoice
from pemlo.gui.judge.viewer.pair import Pair


def set_mark(
    document: Document,
    pair: Pair,
    blind: Blind,
    findings: Findings,
    sheet: Judgement,
    what: str,
    report: Callable[[PemloError], None],
) -> PictureChoice | None:
    """Mark the picture that lies at the left, in the blind whichever it is; return it, None if it is not marked now."""
    if pair.left is None:
        report(InputError("There is no picture to mark.", "Choose one at the left."))
        return None
    left = blind.marked(pair.left, pair.right) or pair.left
    look = "look" if sheet.for_look.isChecked() and sheet.for_look.isVisibleTo(sheet) else "shot"
    picture_comparison = findings.known_of(left)
    if picture_comparison is None and what and left.trial is not None:
        report(InputError("This picture is still being measured.", "Mark it again in a moment."))
        return None
    against, note = pair.reference(left), sheet.note.text().strip()
    try:
        document.edit(
            presenter.mark_name(what),  # type: ignore[arg-type]
            lambda project: presenter.mark(project, left, what, picture_comparison, against, note, look),  # type: ignore[arg-type]
        )
    except PemloError as error:
        report(error)
        return None
    return left
