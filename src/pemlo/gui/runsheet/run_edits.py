"""What the run sheet changes in the document: hours, machines, the order of shots, and what is tried. GUI thread."""

from collections.abc import Callable

from pemlo.app.document import Document
from pemlo.core.errors import InputError, PemloError
from pemlo.core.forecast.what_it_takes import Kind, with_addition
from pemlo.core.project.edits import set_asked, set_machine, set_running, set_shot
from pemlo.core.project.machine_hours import Side, close_stretch, move_end, open_part
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project
from pemlo.core.project.running import Order
from pemlo.core.units import counted


class RunEdits:
    """The changes.

    Attributes
    ----------
    tried : str
        What is tried, and can be kept or dropped; empty if nothing is.
    """

    def __init__(self, document: Document, report: Callable[[PemloError], None]) -> None:
        self._document, self._report = document, report
        self._before: tuple[tuple[Machine, ...], tuple[Machine, ...]] | None = None
        self._drag: tuple[str, Project] | None = None
        self._drags = 0
        self._counts: dict[str, int] = {}
        self._words = ""

    def _edit(self, text: str, change: Callable[[Project], Project], gesture: str = "") -> None:
        try:
            self._document.edit(text, change, gesture)
        except InputError as error:
            self._report(error)

    # Hours

    def drag_end(self, name: str, at_h: float, side: Side, to_h: float, *, done: bool) -> None:
        """Move one end of a machine's hours while it is dragged, from where it was when the hand took it."""
        if self._drag is None or self._drag[0] != name:
            self._drags += 1
            self._drag = name, self._document.project
        begun = self._drag[1]

        def change(project: Project) -> Project:
            moved = move_end(begun, name, at_h, side, to_h)
            machine = next(one for one in moved.machines if one.name == name)
            return set_machine(project, name, exceptions=machine.exceptions)

        self._edit(f"Change the hours of {name}", change, f"hours {self._drags}")
        if done:
            self._drag = None

    def open_part(self, name: str, at_h: float) -> None:
        """Open the night or the day that an hour lies in."""
        self._edit(f"Open {name}", lambda project: open_part(project, name, at_h))

    def close_stretch(self, name: str, at_h: float) -> None:
        """Close what is open at an hour."""
        self._edit(f"Close {name}", lambda project: close_stretch(project, name, at_h))

    def usual_hours(self, name: str) -> None:
        """Forget a machine's other hours on single dates."""
        self._edit(f"Usual hours of {name}", lambda project: set_machine(project, name, exceptions=()))

    def one_night_more(self, name: str) -> None:
        """Open the first night on which a machine is closed."""
        self._edit(f"One night more of {name}", lambda project: with_addition(project, name, "nights", 1))

    # Machines

    def set_count(self, name: str, count: int) -> None:
        """Change how many there are of a machine."""
        self._edit(f"How many {name}", lambda project: set_machine(project, name, count=count), f"count {name}")

    def set_at_once(self, name: str, count: int) -> None:
        """Change how many frames a machine takes at once."""
        self._edit(
            f"Frames in parallel on {name}",
            lambda project: set_machine(project, name, frames_at_once=count),
            f"at once {name}",
        )

    def switch(self, name: str) -> None:
        """Switch a machine off, or on again, with as many as there were."""
        machine = next(one for one in self._document.project.machines if one.name == name)
        if machine.count:
            self._counts[name] = machine.count
            self._edit(f"Switch {name} off", lambda project: set_machine(project, name, count=0))
        else:
            count = self._counts.get(name, 1)
            self._edit(f"Switch {name} on", lambda project: set_machine(project, name, count=count))

    # Order

    def reorder(self, names: tuple[str, ...], *, done: bool) -> None:
        """Hand shots out in an order by hand."""
        if self._drag is None:
            self._drags += 1
            self._drag = "order", self._document.project
        self._edit("Reorder shots", lambda p: set_running(p, order="by hand", queue=names), f"order {self._drags}")
        if done:
            self._drag = None

    def set_order(self, order: Order, queue: tuple[str, ...] = ()) -> None:
        """Hand shots out by a rule."""
        self._edit("Order of shots", lambda project: set_running(project, order=order, queue=queue))

    def first(self, names: tuple[str, ...], queue: tuple[str, ...]) -> None:
        """Put some shots before all others, in their own order."""
        rest = tuple(name for name in queue if name not in names)
        self.set_order("by hand", (*names, *rest))

    # What is kept

    def keep_nothing(self, name: str) -> None:
        """Keep nothing between the frames of a shot, in what was asked and in the plan."""

        def change(project: Project) -> Project:
            shot = project.shot(name)
            plan = None if shot.plan is None else shot.plan.replace(keep=())
            return set_shot(set_asked(project, [name], keep=()), name, plan=plan)

        self._edit(f"Cache nothing of {name}", change)

    def keep(self, name: str, stages: tuple[str, ...]) -> None:
        """Plan a shot with stages that are kept."""

        def change(project: Project) -> Project:
            shot = project.shot(name)
            return set_shot(project, name, plan=shot.settings.replace(keep=stages))

        self._edit(f"Cache data of {name}", change)

    # What is tried

    @property
    def tried(self) -> str:
        if self._before is None or self._document.project.machines != self._before[1]:
            return ""
        return self._words

    def try_way(self, kind: Kind, name: str, extra: int, words: str) -> None:
        """Put more machines, nights or days in, to be kept or dropped."""
        before = self._document.project.machines
        self._edit(f"Try {words}", lambda project: with_addition(project, name, kind, extra))
        if self._document.project.machines != before:
            self._before, self._words = (before, self._document.project.machines), words

    def keep_tried(self) -> None:
        """Leave in what was tried."""
        self._before = None

    def drop_tried(self) -> None:
        """Take out what was tried."""
        if self.tried and self._before is not None:
            machines = self._before[0]
            self._edit(f"Drop {self._words}", lambda project: project.replace(machines=machines))
        self._before = None

    def forget(self) -> None:
        """Another film is here."""
        self._before, self._drag, self._counts = None, None, {}


def tried_words(kind: Kind, name: str, extra: int) -> str:
    """Return what is tried, as an action."""
    if kind == "rent":
        return f"{counted(extra, 'hour')} of rented machines"
    if kind == "machines":
        return f"{extra} more of {name}"
    return f"{counted(extra, 'night' if kind == 'nights' else 'day')} more of {name}"
