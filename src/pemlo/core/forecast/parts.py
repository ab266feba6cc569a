"""Where parts of a forecast are kept that others of the same film share. Loads nothing heavy."""

from collections.abc import Callable
from typing import Protocol, TypeVar

T = TypeVar("T")


class Parts(Protocol):
    """Parts by their name and what they are made from; all are of one fit and its draws."""

    def once(self, name: tuple[str, ...], of: object, make: Callable[[], T]) -> T:
        """Return a part; made now if it was not made before of the same."""


class Once:
    """Keeps parts of one fit as long as it is kept itself."""

    def __init__(self) -> None:
        self._made: dict[object, object] = {}

    def once(self, name: tuple[str, ...], of: object, make: Callable[[], T]) -> T:
        """Return a part; made now if it was not made before of the same."""
        if (name, of) not in self._made:
            self._made[name, of] = make()
        found: T = self._made[name, of]  # type: ignore[assignment]
        return found


class Afresh:
    """Keeps nothing: for who asks once."""

    def once(self, name: tuple[str, ...], of: object, make: Callable[[], T]) -> T:  # noqa: ARG002 - as `Parts`
        """Make a part."""
        return make()
