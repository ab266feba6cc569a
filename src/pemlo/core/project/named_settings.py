"""Sets of settings under a name, such as preview, review and final, that any shot can take. Imports neighbours only."""

from pemlo.core.project.names import Name
from pemlo.core.project.record import Record
from pemlo.core.project.settings import LeverName, ShotSettings

# What a set decides; what is kept, switched and split belongs to each shot.
DECIDED: tuple[LeverName, ...] = (
    "samples", "noise_threshold", "min_samples", "most_seconds", "denoise", "resolution_percent", "frame_step",
)  # fmt: skip


class NamedSettings(Record):
    """A set of settings under its name."""

    name: Name
    settings: ShotSettings

    def on(self, settings: ShotSettings) -> ShotSettings:
        """Return the settings of a shot with those of the set in their place."""
        return settings.replace(**{name: getattr(self.settings, name) for name in DECIDED})
