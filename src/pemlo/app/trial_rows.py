"""The frames of the queue of trials, in order: data, and how it changes. GUI thread; no Qt."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Literal

if TYPE_CHECKING:
    from pemlo.core.project.render_ways import RenderWay
    from pemlo.core.trialrun.landed import Landed
    from pemlo.core.trialrun.spending import Choice

State = Literal["waiting", "running", "landed", "failed", "stopped", "skipped", "planned"]
RENDER = "render "  # before the number of a row, as the key of its job
_MOST_ROWS = 500


@dataclass(frozen=True)
class QueueRow:
    """A frame of the queue.

    Attributes
    ----------
    number : int
        0 for those that are only planned.
    choice : Choice
    way : RenderWay
    state : str
    machine : str
        Which renders it.
    began : float
        On the monotonic clock.
    landed : Landed, optional
    why : str
        Why it is no trial.
    """

    number: int
    choice: "Choice"
    way: "RenderWay"
    state: State
    machine: str = ""
    began: float = 0.0
    landed: "Landed | None" = None
    why: str = ""


class TrialRows:
    """Rows of the queue; those that are done are kept, the oldest of many go."""

    def __init__(self) -> None:
        self._rows: list[QueueRow] = []
        self._count = 0

    def __iter__(self) -> Iterator[QueueRow]:
        return iter(self._rows)

    def append(self, choice: "Choice", way: "RenderWay") -> QueueRow:
        """Add a frame that waits."""
        self._count += 1
        row = QueueRow(self._count, choice, way, "waiting")
        self._rows.append(row)
        if len(self._rows) > _MOST_ROWS:
            done = next((one for one in self._rows if one.state not in ("waiting", "running")), None)
            if done is not None:
                self._rows.remove(done)
        return row

    def put(self, row: QueueRow) -> None:
        """Put a row in place of the one of its number."""
        self._rows = [row if one.number == row.number else one for one in self._rows]

    def of(self, state: State) -> tuple[QueueRow, ...]:
        """Return the rows in a state."""
        return tuple(row for row in self._rows if row.state == state)

    def of_key(self, key: str) -> QueueRow | None:
        """Return the row whose job has a key."""
        return next((row for row in self._rows if key == f"{RENDER}{row.number}"), None)

    def free_machine(self, way: "RenderWay") -> str | None:
        """Return a machine of a way on which one more frame may be begun."""
        from pemlo.core.trialrun.session import machines_of  # noqa: PLC0415 - heavy to load

        running = [row.machine for row in self.of("running")]
        return next((machine for machine in machines_of(way) if running.count(machine) < way.at_once), None)

    def to_front(self, row: QueueRow) -> None:
        """Let a row that waits come before all others that wait."""
        self._rows.remove(row)
        place = next((n for n, one in enumerate(self._rows) if one.state == "waiting"), len(self._rows))
        self._rows.insert(place, row)

    def end(self, row: QueueRow, why: str) -> None:
        """Note that a row was stopped, or was never begun."""
        self.put(replace(row, state="stopped", why=why) if row.state == "running" else replace(row, state="skipped"))

    def clear(self) -> None:
        """Forget all rows."""
        self._rows.clear()
