"""What can go wrong, in words for the person at the desk.

Every error carries a code for programs, a message and a hint for people, and its context, all in
``args`` so that it survives being sent between processes. Imports nothing of Pemlo.
"""

from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class Problem:
    """One thing that is wrong: where it stands, what it is, and what to do about it."""

    where: str
    what: str

    def __str__(self) -> str:
        return f"{self.where}: {self.what}" if self.where else self.what


class PemloError(Exception):
    """Base of all expected trouble.

    Parameters
    ----------
    message : str
        What is wrong and where, one sentence.
    hint : str
        What to do about it; may be empty.
    code : str
        A short name for programs.
    """

    def __init__(self, message: str, hint: str = "", code: str = "pemlo") -> None:
        super().__init__(message, hint, code)

    @property
    def message(self) -> str:
        return str(self.args[0])

    @property
    def hint(self) -> str:
        return str(self.args[1])

    @property
    def code(self) -> str:
        return str(self.args[2])

    def __str__(self) -> str:
        return f"{self.message} {self.hint}".strip()


class InputError(PemloError):
    """Something that was typed, pasted or read is wrong; all problems found are listed at once.

    Parameters
    ----------
    problems : sequence of Problem
        At least one.
    hint : str
        What to do about all of them; may be empty.
    """

    def __init__(self, problems: Sequence[Problem] | str, hint: str = "", code: str = "input") -> None:
        listed = (Problem("", problems),) if isinstance(problems, str) else tuple(problems)
        Exception.__init__(self, "\n".join(str(problem) for problem in listed), hint, code, listed)

    @property
    def problems(self) -> tuple[Problem, ...]:
        problems: tuple[Problem, ...] = self.args[3]
        return problems

    def __reduce__(self) -> tuple[object, ...]:
        return (type(self), (self.problems, self.hint, self.code))


class ClusterError(PemloError):
    """Other machines that were asked to do the work cannot."""

    def __init__(self, message: str, hint: str = "", code: str = "cluster") -> None:
        super().__init__(message, hint, code)


class FileError(PemloError):
    """A file cannot be read or written."""

    def __init__(self, message: str, hint: str = "", code: str = "file") -> None:
        super().__init__(message, hint, code)
