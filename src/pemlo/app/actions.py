"""Actions as data: one table feeds menus, the finder, tooltips and the page of shortcuts. No widgets."""

from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True)
class Action:
    """Something that can be done.

    Attributes
    ----------
    name : str
        For programs.
    menu : str
        In which menu it stands.
    text : str
        What it says, and by which it is found.
    tip : str
        What it does, in the user's terms.
    run : callable
    shortcut : str
        Empty if it has none.
    enabled : callable
        Whether it can be done now.
    why_not : str
        What it says while it cannot be done: what to do first.
    """

    name: str
    menu: str
    text: str
    tip: str
    run: Callable[[], None]
    shortcut: str = ""
    enabled: Callable[[], bool] = lambda: True
    why_not: str = ""

    @property
    def said(self) -> str:
        """What it does, or why it cannot be done now."""
        return self.tip if not self.why_not or self.enabled() else self.why_not


def matching(actions: tuple[Action, ...], words: str) -> tuple[Action, ...]:
    """Return the actions whose text or tip holds all words, those that begin with them first."""
    wanted = words.lower().split()
    found = [action for action in actions if all(word in f"{action.text} {action.tip}".lower() for word in wanted)]
    return tuple(sorted(found, key=lambda action: not action.text.lower().startswith(words.lower().strip())))
