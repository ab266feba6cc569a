"""Where parts of a forecast are kept that others of the same film share. Loads nothing heavy."""

from collections.abc import Callable
from typing import Protocol, TypeVar

T = TypeVar("T")


class Parts(Protocol):
    """Parts by their name and what they are made from; all are of one fit and its draws."""

    def once(self, name: tuple[str, ...], of: object, make: Callable[[], T]) -> T:
        """Return a part; made now if it was not made before of the same."""


class Afresh:
    """Keeps nothing: for who asks once."""

    def once(self, name: tuple[str, ...], of: object, make: Callable[[], T]) -> T:  # noqa: ARG002 - as `Parts`
        """Make a part."""
        return make()
