"""What an edit last said of shots, so that a launch can be held against it. Imports the record only."""

from pydantic import Field

from pemlo.core.project.record import Record


class EditedShot(Record):
    """The frames of a shot that an edit needs, numbered as the shot is."""

    shot: str = Field(min_length=1, max_length=60)
    first: int = Field(ge=-10_000_000, le=10_000_000)
    last: int = Field(ge=-10_000_000, le=10_000_000)


class EditedFilm(Record):
    """An edit that was taken in: its file's name, and its shots; none was where the name is empty."""

    name: str = Field(default="", max_length=400)
    shots: tuple[EditedShot, ...] = Field(default=(), max_length=2000)

    def of(self, shot: str) -> EditedShot | None:
        """Return what the edit says of a shot; None if it does not have it."""
        return next((edited_shot for edited_shot in self.shots if edited_shot.shot == shot), None)
