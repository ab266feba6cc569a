"""Plans that are kept under a name, to be compared and taken again. Imports its neighbours only."""

from typing import Self

from pydantic import Field, model_validator

from pemlo.core.project.names import Name
from pemlo.core.project.record import Record
from pemlo.core.project.settings import ShotSettings


class PlannedShot(Record):
    """What a plan has for a shot."""

    shot: str = Field(min_length=1, max_length=60)
    settings: ShotSettings


class KeptCard(Record):
    """A comparison that was kept, as the text that it was then."""

    title: str = Field(min_length=1, max_length=200)
    text: str = Field(max_length=20_000)


class KeptPlan(Record):
    """A plan under its name: settings of shots; those that it does not name are as asked."""

    name: Name
    shots: tuple[PlannedShot, ...] = ()

    @model_validator(mode="after")
    def _each_shot_once(self) -> Self:
        names = [shot.shot for shot in self.shots]
        if len(set(names)) < len(names):
            raise ValueError("a shot stands in it twice")
        return self

    def settings_of(self, shot: str) -> ShotSettings | None:
        """Return what it has for a shot; None for as asked."""
        return next((planned_shot.settings for planned_shot in self.shots if planned_shot.shot == shot), None)
