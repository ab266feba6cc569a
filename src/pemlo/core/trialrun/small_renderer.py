"""The way of the small renderer that ships with Pemlo: a command like any other, for shots that name one of its scenes.

It is a program of its own; nothing here imports it.
"""

from pemlo.core.processes import command_of
from pemlo.core.project.render_ways import RenderWay, Saying
from pemlo.core.trialrun.template import shell_word

NAME = "small renderer"
_COMMAND = (
    "render --scene {scene} --frame {frame} --size {width}x{height} --resolution-percent {percent} "
    "--samples {samples} {threshold} {min_samples} {time_limit} {region} {split} {keep} {denoise} "
    "--switches {switches} --saves {saves} --seed {seed} --machine {machine} --warm-up --refine 0.5 -o {out}"
)
_OPTIONS: tuple[tuple[str, str], ...] = (
    ("threshold", "--noise-threshold {value}"),
    ("min_samples", "--min-samples {value}"),
    ("time_limit", "--seconds {value}"),
    ("region", "--region={value}"),
    ("split", "--split {value}"),
    ("keep", "--keep {value}"),
    ("denoise", "--denoise {value}"),
)


def small_renderer() -> RenderWay:
    """Return the way; `{scene}` is the shot's own column."""
    program = " ".join(shell_word(word) for word in command_of("pemlo"))
    sayings = [
        Saying(field=field, value=value, words=words)
        for field, option in _OPTIONS
        for value, words in (("any", option), ("none", ""))
    ]
    return RenderWay(name=NAME, command=f"{program} {_COMMAND}", sayings=tuple(sayings))
