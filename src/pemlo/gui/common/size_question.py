"""One question where smaller pictures are marked good enough: whether their size passes, too. GUI thread."""

from collections.abc import Sequence

from pemlo.app.document import Document
from pemlo.core.project.edits import set_trial
from pemlo.core.project.eye_marks import is_smaller, size_question
from pemlo.core.project.project import Project
from pemlo.gui.common.problem_bar import Offer


def ask_of_size(document: Document, trials: Sequence[int], offer: Offer) -> None:
    """Ask of those among some trials that are smaller than what is asked; their size is delivered only if it passes."""
    project = document.project
    smaller = [index for index in trials if is_smaller(project, project.trials[index])]
    if not smaller:
        return

    def change(now: Project) -> Project:
        for index in smaller:
            now = set_trial(now, index, mark_size=True)
        return now

    what = "a trial" if len(smaller) == 1 else f"{len(smaller)} trials"
    offer(
        size_question(project, project.trials[smaller[0]]),
        "",
        "This size passes, too",
        lambda: document.edit(f"Let the size of {what} pass, too", change),
    )
