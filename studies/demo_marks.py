"""Marks of the demo film: what somebody found good enough in Judge, with the errors that are measured there.

``python studies/demo_marks.py`` measures the pictures again and writes the marks into the demo project.
"""

from pathlib import Path

from pemlo.core.appraisal.picture_comparison import compare
from pemlo.core.persistence.document import read_project, write_project
from pemlo.core.pixels.display import Srgb
from pemlo.core.project.project import Project
from pemlo.core.project.trials import BAD, GOOD, Mark, Trial
from pemlo.demo import DEMO_FILE
from pemlo.gui.judge import presenter
from pemlo.gui.judge.measure.measuring import MeasureConditions
from pemlo.gui.judge.viewer.pair import Pair
from pemlo.gui.judge.viewer.reader import ViewRequest

# Shot, frame, samples, denoiser, mark, note.
MARKS: tuple[tuple[str, int, int, str, Mark, str], ...] = (
    ("060", 66, 16, "frame", GOOD, "soft along the rail, fine at this speed"),
    ("060", 66, 16, "none", BAD, "sparks on the rail"),
    ("100", 86, 16, "frame", GOOD, "soft in the reeds, fine"),
)


def with_marks(project: Project, folder: Path) -> Project:
    """Return the project with the marks of which there are pictures."""
    how = MeasureConditions(Srgb(), ViewRequest().reading(), project.delivery.seen_from, False)
    for shot, frame, samples, denoise, mark, note in MARKS:
        among = presenter.picture_choices(project, shot, folder / DEMO_FILE.name, Path.is_file)
        chosen = next((one for one in among if one.trial and is_meant(one.trial, frame, samples, denoise)), None)
        if chosen is None:
            continue
        pair = Pair(chosen, None, among)
        question = pair.question(how)
        assert question is not None
        found = compare(question)
        project = presenter.mark(project, chosen, mark, found, pair.reference(), note, "shot")
    return project


def is_meant(trial: Trial, frame: int, samples: int, denoise: str) -> bool:
    """Whether a trial is the one that a mark names."""
    return (trial.frame, trial.samples, trial.denoise) == (frame, samples, denoise) and not trial.adaptive


if __name__ == "__main__":
    write_project(with_marks(read_project(DEMO_FILE), DEMO_FILE.parent), DEMO_FILE)
