"""How a person's own renderer is run for one frame: a command with fields in braces. Imports its neighbours only."""

import re
from typing import Annotated, Literal, Self, get_args

from pydantic import AfterValidator, Field, StringConstraints, field_validator, model_validator

from pemlo.core.project.names import Name, PathText, one_line
from pemlo.core.project.record import Record
from pemlo.core.units import LONGEST_S

# What can be put into a command: everything that says which frame is rendered, and how.
FieldName = Literal[
    "shot", "scene", "camera", "frame", "samples", "threshold", "min_samples", "width", "height", "percent", "region",
    "denoise", "keep", "switches", "split", "saves", "time_limit", "way", "way_value", "seed", "machine", "out",
]  # fmt: skip
FIELDS: tuple[FieldName, ...] = get_args(FieldName)
# Those whose words may differ from their value: a denoiser, a switch, "no threshold".
SaidField = Literal["denoise", "switch", "keep", "threshold", "min_samples", "region", "split", "time_limit", "way"]
SAID_FIELDS: tuple[SaidField, ...] = get_args(SaidField)
NONE, ANY = "none", "any"  # the value of a field that has none, and every value that is not listed
# What may be marked in a line that the renderer writes.
OutputField = Literal[
    "seconds", "frame", "mean_samples", "memory", "prepare_seconds", "light_seconds", "trace_seconds",
    "denoise_seconds", "write_seconds",
]  # fmt: skip
OUTPUT_FIELDS: tuple[OutputField, ...] = get_args(OutputField)
MOST_WAYS_TO_RENDER = 20
MOST_AT_ONCE = 64
_VARIABLE = re.compile(r"[A-Za-z_][A-Za-z0-9_]{0,100}")


def _command(text: str) -> str:
    """Return a command in one line: what is pasted from a script may be broken over several."""
    joined = " ".join(part.strip().removesuffix("\\").strip() for part in text.splitlines())
    return one_line(joined)


CommandText = Annotated[str, StringConstraints(strip_whitespace=True, max_length=20_000), AfterValidator(_command)]


class Saying(Record):
    """How a value of a field is said to the renderer: words in place of the field, ``{value}`` among them perhaps.

    Of a switch `value` is its name, `words` say that it is on, and `otherwise` that it is off.
    """

    field: SaidField
    value: Annotated[str, Field(min_length=1, max_length=60), AfterValidator(one_line)]
    words: Annotated[str, Field(max_length=2000), AfterValidator(one_line)] = ""
    otherwise: Annotated[str, Field(max_length=2000), AfterValidator(one_line)] = ""


class OutputMark(Record):
    """Which characters of a line are a field: from the first to before the last."""

    field: OutputField
    begin: int = Field(ge=0, le=10_000)
    end: int = Field(ge=1, le=10_000)


class OutputExample(Record):
    """A line that the renderer wrote, and what is marked in it."""

    line: Annotated[str, StringConstraints(strip_whitespace=False, min_length=1, max_length=10_000)]
    marks: tuple[OutputMark, ...] = Field(min_length=1, max_length=len(OUTPUT_FIELDS))

    @model_validator(mode="after")
    def _fits(self) -> Self:
        marks = sorted(self.marks, key=lambda mark: mark.begin)
        for before, mark in zip((None, *marks), marks, strict=False):
            if not mark.begin < mark.end <= len(self.line):
                raise ValueError(f"the {mark.field} is marked outside of the line")
            if before is not None and mark.begin < before.end:
                raise ValueError(f"{before.field} and {mark.field} are marked in the same place")
        if len({mark.field for mark in marks}) < len(marks):
            raise ValueError("a field is marked twice")
        return self


class MachineCommand(Record):
    """A machine of the brief, and the words in front of the command that have it run there; none for this computer."""

    machine: Name
    prefix: Annotated[str, Field(max_length=2000), AfterValidator(one_line)] = ""


class RenderWay(Record):
    """One way to render a frame, under its name.

    The `command` is split into words without a shell, unless `shell` is ticked; it runs in `folder`, with the
    `environment` added to one's own. The picture lands at ``{out}``, a name that Pemlo makes; `picture` says how the
    file is called where the renderer makes its own of it: ``{out}.{frame:04}.exr``, or only an ending such as ``.png``.
    Attributes of its header (`header_names`, by field of a trial) and lines of the output (`output`, by example) tell
    what the clock does not. `at_once` frames run side by side on a machine; one that takes longer than `time_limit_s`
    is ended. Nothing is written below the folders in `untouched`. Where `first_left_out`, the first frame on each
    machine counts for nothing: caches are cold. `machines` run the command each by a prefix of its own.
    """

    name: Name
    command: CommandText = Field(min_length=1)
    shell: bool = False
    folder: PathText = ""
    environment: tuple[tuple[str, str], ...] = Field(default=(), max_length=200)
    sayings: tuple[Saying, ...] = Field(default=(), max_length=200)
    picture: PathText = ""
    output: tuple[OutputExample, ...] = Field(default=(), max_length=8)
    header_names: tuple[tuple[str, str], ...] = Field(default=(), max_length=40)
    at_once: int = Field(default=1, ge=1, le=MOST_AT_ONCE)
    time_limit_s: float | None = Field(default=None, gt=0, le=LONGEST_S)
    untouched: tuple[PathText, ...] = Field(default=(), max_length=50)
    first_left_out: bool = False
    machines: tuple[MachineCommand, ...] = Field(default=(), max_length=200)

    @field_validator("environment")
    @classmethod
    def _variables(cls, pairs: tuple[tuple[str, str], ...]) -> tuple[tuple[str, str], ...]:
        for name, value in pairs:
            if not _VARIABLE.fullmatch(name):
                raise ValueError(f"“{name[:40]}” is no name of a variable; write letters, digits and _")
            one_line(value)
        return pairs

    @model_validator(mode="after")
    def _once_each(self) -> Self:
        said = [(one.field, one.value) for one in self.sayings]
        twice = next((one for one in said if said.count(one) > 1), None)
        if twice is not None:
            raise ValueError(f"how {twice[0]} {twice[1]} is said stands there twice")
        names = [one.machine for one in self.machines]
        if len(set(names)) < len(names):
            raise ValueError("a machine stands there twice")
        return self

    def words_for(self, field: SaidField, value: str) -> str | None:
        """Return the words for a value of a field, its own or those of any other; None where the value says itself."""
        of_field = {saying.value: saying.words for saying in self.sayings if saying.field == field}
        return of_field.get(value, of_field.get(ANY) if value != NONE else None)
