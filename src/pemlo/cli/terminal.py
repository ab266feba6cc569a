"""What goes to a terminal: words of ours with names of others in them, which give it no orders."""

from typing import Any, TextIO

from pemlo.core.foreign import visible


class PlainStream:
    """A stream of text that obeys nobody but the program: what cannot be seen is written by its number."""

    def __init__(self, stream: TextIO) -> None:
        self._stream = stream

    def write(self, text: str) -> int:
        self._stream.write(visible(text))
        return len(text)

    def writelines(self, lines: list[str]) -> None:
        for line in lines:
            self.write(line)

    def __getattr__(self, name: str) -> Any:  # noqa: ANN401 - all else is the stream's own
        return getattr(self._stream, name)
