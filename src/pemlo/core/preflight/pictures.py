"""Checks of the pictures: size, settings, what their format can hold. Pure."""

from collections.abc import Callable
from typing import Any

from pemlo.core.preflight.check_context import CheckContext
from pemlo.core.preflight.finding import Finding, Fix, fine, not_known, wrong
from pemlo.core.preflight.fixes import set_row
from pemlo.core.preflight.written_paths import MOVIES
from pemlo.core.project.launch import LaunchRow
from pemlo.core.project.project import Project
from pemlo.core.project.settings import MOTION_BLUR, NO_DENOISE, ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.spelling import rays_text, way_words
from pemlo.core.units import format_duration

# What formats can hold: most bits a value, alpha, layers, light as it is; common practice, no source.
FORMATS: dict[str, tuple[int, bool, bool, bool]] = {
    "exr": (32, True, True, True), "tif": (32, True, False, True), "tiff": (32, True, False, True),
    "png": (16, True, False, False), "jpg": (8, False, False, False), "jpeg": (8, False, False, False),
}  # fmt: skip
# What a denoiser looks at, beside the colour; one that looks at other frames must know how things moved.
DENOISER_LAYERS = ("albedo", "normal", "depth", "variance")
MOVEMENT = "motion"
BITS_OF_A_DISPLAY = 8
FEW = 0.5  # of the planned samples: so few were a test


def ending_of(pattern: str) -> str:
    """Return the ending of a name pattern, small letters."""
    return pattern.rpartition(".")[2].lower() if "." in pattern else ""


def size_is_the_plans(here: CheckContext) -> list[Finding]:
    """Width, height and percentage are those of the plan."""
    name, found = "size", []
    for shot, row in here.each():
        width, height = here.project.size_of(shot)
        percent = shot.settings.resolution_percent
        if row.width is None or row.height is None:
            found.append(not_known(name, f"The size of {shot.name} is not known.", "Say width and height.", shot.name))
        elif (row.width, row.height) != (width, height):
            words = f"{shot.name} is launched at {row.width}×{row.height} px, and {width}×{height} are planned."
            mend = Fix(f"Set {shot.name} to {width}×{height}", set_row(shot.name, width=width, height=height))
            found.append(wrong(name, words, f"Use {width}×{height}.", shot.name, mend))
        elif row.percent is None:
            found.append(not_known(name, f"The percentage of {shot.name} is not known.", "", shot.name))
        elif row.percent != percent:
            words = f"{shot.name} is launched at {row.percent:g} %, and {percent:g} % are planned. "
            words += "It may be a test's setting."
            mend = Fix(f"Set {shot.name} to {percent:g} %", set_row(shot.name, percent=percent))
            found.append(wrong(name, words, f"Use {percent:g} %.", shot.name, mend))
        else:
            found.append(fine(name, shot.name))
    return found


def sides_are_even(here: CheckContext) -> list[Finding]:
    """A movie's codec wants even sides."""
    name, found = "even sides", []
    for shot, row in here.each():
        if not here.project.needs.movie or row.width is None or row.height is None:
            found.append(fine(name, shot.name))
            continue
        share = (row.percent or 100.0) / 100
        width, height = (max(1, round(side * share)) for side in (row.width, row.height))
        if width % 2 or height % 2:
            words = f"{shot.name} comes out at {width}×{height} px: codecs of movies want even sides."
            found.append(wrong(name, words, f"Use {width + width % 2}×{height + height % 2}.", shot.name))
        else:
            found.append(fine(name, shot.name))
    return found


def settings_are_the_plans(here: CheckContext) -> list[Finding]:
    """Samples, threshold and denoising are those of the plan."""
    name, found = "settings", []
    for shot, row in here.each():
        plan = shot.settings
        planned = plan.noise_threshold or 0.0
        differs = []
        mended: dict[str, object] = {}
        if row.samples is not None and row.samples != plan.samples:
            test = ", so few that it may be a test's" if row.samples < FEW * plan.samples else ""
            differs.append(f"samples {row.samples}, planned {plan.samples}{test}")
            mended["samples"] = plan.samples
        if row.threshold is not None and row.threshold != planned:
            differs.append(f"noise threshold {row.threshold:g}, planned {planned:g}")
            mended["threshold"] = planned
        if row.denoise and row.denoise != plan.denoise:
            differs.append(f"denoise {row.denoise}, planned {plan.denoise}")
            mended["denoise"] = plan.denoise
        for field, title, have, want, words_of in _others(row, plan):
            if have is not None and have != want:
                differs.append(f"{title} {words_of(have)}, planned {words_of(want)}")
                mended[field] = want
        if differs:
            mend = Fix(f"Set {shot.name} to the plan", set_row(shot.name, **mended))
            found.append(wrong(name, f"{shot.name}: {'; '.join(differs)}.", "Set it to the plan.", shot.name, mend))
        elif row.samples is None:
            found.append(not_known(name, f"With how many samples {shot.name} is rendered is not known.", "", shot.name))
        else:
            found.append(fine(name, shot.name))
    return found


def _others(row: LaunchRow, plan: ShotSettings) -> tuple[tuple[str, str, Any, Any, Callable[[Any], str]], ...]:
    """Return the settings that are the same or not: field, title, of the launch, of the plan, and how one is said."""
    return (
        ("min_samples", "min samples", row.min_samples if plan.adaptive else None, plan.least_samples, str),
        ("most_seconds", "time limit", row.most_seconds, plan.most_seconds or 0.0, _limit_words),
        ("split", "sampling split", row.split, plan.split, rays_text),
        ("switches", "switches", row.switches, plan.switches, lambda names: ", ".join(names) or "none"),
        ("keep", "kept", row.keep, plan.keep, lambda stages: " and ".join(stages) or "nothing"),
        ("way", "way", row.way, way_words(plan.way, plan.way_value), lambda way: way or "the usual one"),
    )


def _limit_words(seconds: float) -> str:
    return format_duration(seconds) if seconds else "none"


def pictures_and_no_movie(here: CheckContext) -> list[Finding]:
    """Frames are written as pictures, so that a break costs a frame and not the night."""
    name, found = "pictures", []
    for shot, row in here.each():
        ending = ending_of(row.pattern)
        if not row.pattern:
            found.append(not_known(name, f"No output file is set for {shot.name}.", "Say its name pattern.", shot.name))
        elif ending in MOVIES:
            words = f"{shot.name} is rendered into a movie (.{ending}): a break costs the whole night."
            todo = "Render pictures, such as {shot}.{frame:04}.exr, and make the movie of them."
            mend = Fix(f"Render pictures of {shot.name}", set_row(shot.name, pattern="{shot}.{frame:04}.exr"))
            found.append(wrong(name, words, todo, shot.name, mend))
        elif ending not in FORMATS:
            words = f"Whether .{ending or row.pattern} of {shot.name} is a format of pictures is not known here."
            found.append(not_known(name, words, f"Known are {', '.join(FORMATS)}.", shot.name))
        else:
            found.append(fine(name, shot.name))
    return found


def format_holds_what_is_needed(here: CheckContext) -> list[Finding]:
    """The format holds the alpha, bit depth, layers and light that later work needs."""
    name, found = "format", []
    needs = here.project.needs
    for shot, row in here.each():
        ending = ending_of(row.pattern)
        if ending not in FORMATS:
            found.append(not_known(name, f"In what format {shot.name} is written is not known.", "", shot.name))
            continue
        bits, alpha, layers, _ = FORMATS[ending]
        lacks = []
        if needs.bits > bits:
            lacks.append(f"{needs.bits} bits a value")
        if needs.alpha and not alpha:
            lacks.append("alpha")
        if (needs.layers or row.layers) and not layers and "{layer}" not in f"{row.folder}/{row.pattern}":
            lacks.append("layers")
        if row.colour == "scene-linear" and bits <= BITS_OF_A_DISPLAY:
            lacks.append("light as it is without steps that show")
        if lacks:
            words = f"{shot.name} is written as .{ending}, which cannot hold {' and '.join(lacks)}."
            pattern = f"{row.pattern.rpartition('.')[0]}.exr"
            mend = Fix(f"Write {shot.name} as EXR", set_row(shot.name, pattern=pattern))
            found.append(wrong(name, words, "Write EXR.", shot.name, mend))
        else:
            found.append(fine(name, shot.name))
    return found


def needed_layers(project: Project, shot: Shot) -> tuple[str, ...]:
    """Return the layers that later work and the planned denoiser look at."""
    looked_at: tuple[str, ...] = ()
    if shot.settings.denoise != NO_DENOISE:
        looked_at = (*DENOISER_LAYERS, MOVEMENT) if shot.settings.looks_around else DENOISER_LAYERS
    return tuple(dict.fromkeys((*project.needs.layers, *looked_at)))


def demanded_layers(project: Project, shot: Shot) -> set[str]:
    """Return the layers that later work cannot do without: those asked for, and for neighbours how things move."""
    return {*project.needs.layers, *((MOVEMENT,) if shot.settings.looks_around else ())}


def layers_are_written(here: CheckContext) -> list[Finding]:
    """What later work and the planned denoiser look at is written."""
    name, found = "layers", []
    for shot, row in here.each():
        wanted = needed_layers(here.project, shot)
        if not wanted:
            found.append(fine(name, shot.name))
        elif row.layers is None:
            words = f"Which layers {shot.name} is written with is not known; needed are {', '.join(wanted)}."
            found.append(not_known(name, words, "", shot.name))
        elif missing := [layer for layer in wanted if layer.lower() not in {layer.lower() for layer in row.layers}]:
            words = f"{shot.name} is written without {', '.join(missing)}"
            words += (
                f", which “{shot.settings.denoise}” looks at." if set(missing) - set(here.project.needs.layers) else "."
            )
            mend = Fix(f"Write {', '.join(missing)} of {shot.name}", set_row(shot.name, layers=(*row.layers, *missing)))
            demanded = set(missing) & demanded_layers(here.project, shot)
            if demanded:
                found.append(wrong(name, words, "Switch them on.", shot.name, mend))
            else:
                todo = "It does without them, and better with them."
                found.append(not_known(name, words, todo, shot.name, mend))
        else:
            found.append(fine(name, shot.name))
    return found


def denoiser_goes_with_motion_blur(here: CheckContext) -> list[Finding]:
    """A denoiser that looks at neighbours takes motion blur for noise."""
    name, found = "denoiser", []
    for shot in here.project.shots:
        if shot.settings.looks_around and MOTION_BLUR in shot.settings.switches:
            words = f"“{shot.settings.denoise}” looks at other frames of {shot.name}, and takes motion blur for noise."
            found.append(wrong(name, words, "Plan without one of the two, in Trade.", shot.name))
        else:
            found.append(fine(name, shot.name))
    return found
