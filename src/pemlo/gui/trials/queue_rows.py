"""The queue of trials as rows and sentences. Qt-free."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from pemlo.core.project.spelling import settings_words
from pemlo.core.units import counted, format_duration
from pemlo.gui.common.columns import Column, Role
from pemlo.words.trial_runs import landed_words, measured_words, why_words

# A frame's state by its shape, and in words: nobody needs a colour to tell them apart.
_MARKS = {
    "waiting": "□ waits", "running": "◧ now", "landed": "■ done", "failed": "× no trial", "stopped": "× stopped",
    "skipped": "– left out", "planned": "◌ next",
}  # fmt: skip


@dataclass(frozen=True)
class QueueLine:
    """A frame of the queue as it is shown; `row` is what the queue knows of it."""

    row: Any

    @property
    def state(self) -> str:
        return _MARKS[self.row.state]

    @property
    def named(self) -> str:
        return f"Frame {self.row.choice.frame} of {self.row.choice.shot}"

    @property
    def took(self) -> str:
        landed, choice = self.row.landed, self.row.choice
        if landed is not None and landed.trial is not None:
            return format_duration(landed.trial.seconds)
        if self.row.state in ("planned", "waiting", "running") and 0 < choice.seconds < float("inf"):
            return f"about {format_duration(choice.seconds)}"
        return ""

    @property
    def said(self) -> str:
        if self.row.why:
            return str(self.row.why)
        if self.row.landed is not None:
            return landed_words(self.row.landed)
        return why_words(self.row.choice)


def queue_lines(rows: Sequence[Any]) -> tuple[QueueLine, ...]:
    """Return the rows of the queue, what is under way and next first, what is done last, the newest of it first."""
    order = {"running": 0, "waiting": 1, "planned": 2}
    lines = [QueueLine(row) for row in rows]
    ahead = [line for line in lines if line.row.state in order]
    done = [line for line in lines if line.row.state not in order]
    return (*sorted(ahead, key=lambda line: order[line.row.state]), *reversed(done))


def _role(line: QueueLine) -> Role:
    return {"failed": "limit", "planned": "faint", "skipped": "faint", "stopped": "faint"}.get(line.row.state, "ink")  # type: ignore[return-value]


def _text(name: str) -> Any:  # noqa: ANN401 - a function of a line
    return lambda line: getattr(line, name)


QUEUE_COLUMNS = (
    Column[QueueLine]("", "Where it stands", _text("state"), figures=False, width=80, role=_role),
    Column[QueueLine]("shot", "Which shot", lambda line: line.row.choice.shot, figures=False, width=40, role=_role),
    Column[QueueLine]("frame", "Which frame", lambda line: str(line.row.choice.frame), width=48, role=_role,
                      order=lambda line: line.row.choice.frame),
    Column[QueueLine]("time", "What it took, or should take", _text("took"), width=70, role=_role),
    Column[QueueLine]("settings", "How it is rendered", lambda line: settings_words(line.row.choice.settings),
                      figures=False, width=150, role=_role),
    Column[QueueLine]("machine", "Which renders it", lambda line: line.row.machine, figures=False, width=64,
                      role=_role),
    Column[QueueLine]("why, and what came of it", "Why it is rendered, what was measured, or why it is no trial",
                      _text("said"), figures=False, width=300, role=_role,
                      about=lambda line: "" if line.row.landed is None else measured_words(line.row.landed)),
)  # fmt: skip


def queue_words(rows: Sequence[Any], left_s: float | None) -> str:
    """Return how the queue stands, in a line."""
    counts = {state: sum(row.state == state for row in rows) for state in _MARKS}
    parts = []
    if left_s is not None:
        parts.append(f"{format_duration(max(1.0, left_s))} left")
    if counts["landed"]:
        parts.append(f"{counted(counts['landed'], 'trial')} done")
    if counts["failed"]:
        parts.append(f"{counts['failed']} no trial")
    if counts["running"]:
        parts.append(f"{counts['running']} under way")
    if counts["waiting"]:
        parts.append(f"{counts['waiting']} waiting")
    return ", ".join(parts)
