"""What Hand-over says of shots and of what the checks found. Qt-free."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from pemlo.core.preflight.finding import FINE, UNKNOWN, WRONG, Finding
from pemlo.core.project.project import Project
from pemlo.core.units import counted

ShotState = Literal["ready", "not known", "wrong", "not checked"]
STATE_WORDS: dict[ShotState, str] = {
    "ready": "ready", "not known": "ready as far as is known", "wrong": "not ready", "not checked": "not checked yet",
}  # fmt: skip


@dataclass(frozen=True)
class ShotMark:
    """A shot at a glance: its state, and why."""

    shot: str
    state: ShotState
    why: str


def shot_marks(project: Project, found: Sequence[Finding] | None) -> tuple[ShotMark, ...]:
    """Return how far each shot is; what is wrong with the film counts for none of them alone."""
    marks = []
    by_shot: dict[str, list[Finding]] = {}
    for finding in found or ():
        by_shot.setdefault(finding.shot, []).append(finding)
    for shot in project.shots:
        if found is None:
            marks.append(ShotMark(shot.name, "not checked", ""))
            continue
        mine = by_shot.get(shot.name, [])
        wrong = [finding.words for finding in mine if finding.outcome == WRONG]
        unknown = [finding.words for finding in mine if finding.outcome == UNKNOWN]
        state: ShotState = "wrong" if wrong else "not known" if unknown else "ready"
        marks.append(ShotMark(shot.name, state, "\n".join(wrong or unknown)))
    return tuple(marks)


def film_words(project: Project, found: Sequence[Finding] | None, *, typed: bool) -> str:
    """Return how many shots are ready, how many not, and what is checked."""
    if found is None:
        return "Checking…"
    marks = shot_marks(project, found)
    count = {state: sum(mark.state == state for mark in marks) for state in ("ready", "not known", "wrong")}
    parts = [f"{count['ready']} of {counted(len(marks), 'shot')} ready"]
    if count["wrong"]:
        parts.append(f"{count['wrong']} with mistakes")
    if count["not known"]:
        parts.append(f"{count['not known']} not fully known")
    film = sum(finding.outcome == WRONG and not finding.shot for finding in found)
    mistakes = f" The film itself has {counted(film, 'mistake')}." if film else ""
    return f"{', '.join(parts)}.{mistakes} {'The launch' if typed else 'The plan itself'} is checked."


def shown_findings(
    found: Sequence[Finding], outcomes: Sequence[str], picked: Sequence[str], *, only_picked: bool
) -> tuple[Finding, ...]:
    """Return findings of some outcomes; of the picked shots, and of the whole film, where only they are wanted."""
    return tuple(
        finding
        for finding in found
        if finding.outcome in outcomes and not (only_picked and finding.shot and finding.shot not in picked)
    )


def outcome_counts(found: Sequence[Finding]) -> dict[str, int]:
    """Return how many findings there are of each outcome."""
    return {outcome: sum(finding.outcome == outcome for finding in found) for outcome in (WRONG, UNKNOWN, FINE)}
