"""Checks of what a test leaves behind: a region, few bounces; pixels that are not square; colour baked in. Pure."""

from pemlo.core.preflight.check_context import CheckContext
from pemlo.core.preflight.finding import Finding, Fix, fine, not_known, wrong
from pemlo.core.preflight.fixes import set_row
from pemlo.core.preflight.pictures import FORMATS, ending_of
from pemlo.core.project.launch import Colour, LaunchRow

FEW_BOUNCES = 2  # fewer are a test's; common practice, no source
HOLDS: dict[Colour, str] = {"scene-linear": "light as it is", "display": "a view that is baked in"}


def no_test_is_left_on(here: CheckContext) -> list[Finding]:
    """No region is set, and light may bounce."""
    name, found = "left on", []
    for shot, row in here.each():
        left = []
        mended: dict[str, object] = {}
        if row.region:
            left.append(f"only the region {row.region} is rendered")
            mended["region"] = ""
        if row.bounces is not None and row.bounces < FEW_BOUNCES:
            left.append(f"light bounces {row.bounces} times at most")
            mended["bounces"] = None
        if left:
            words = f"{shot.name} has a test's setting left on: {'; '.join(left)}."
            mend = Fix(f"Set {shot.name} as for the film", set_row(shot.name, **mended))
            found.append(wrong(name, words, "Switch it off in the launch.", shot.name, mend))
        else:
            found.append(fine(name, shot.name))
    return found


def pixels_are_square(here: CheckContext) -> list[Finding]:
    """Pixels are as wide as they are high."""
    name, found = "pixel aspect", []
    for shot, row in here.each():
        if row.pixel_aspect is None or row.pixel_aspect == 1:
            found.append(fine(name, shot.name))
        else:
            words = f"Pixels of {shot.name} are {row.pixel_aspect:g} times as wide as high: pictures come out squeezed."
            mend = Fix(f"Make pixels of {shot.name} square", set_row(shot.name, pixel_aspect=1.0))
            found.append(wrong(name, words, "Use a pixel aspect of 1.", shot.name, mend))
    return found


def colour_is_as_delivered(here: CheckContext) -> list[Finding]:
    """Files hold what is delivered: light as it is, or what a screen shows; a view is baked in once."""
    name, found = "colour", []
    needs = here.project.needs.colour
    for shot, row in here.each():
        holds = colour_of(row)
        if not needs:
            found.append(fine(name, shot.name))
        elif not holds:
            words = f"Whether files of {shot.name} hold light or what a screen shows is not known."
            found.append(not_known(name, words, "Say it in the launch.", shot.name))
        elif holds == needs:
            found.append(fine(name, shot.name))
        else:
            happens = "whoever views it bakes one in twice" if holds == "display" else "nobody bakes one in"
            words = f"Files of {shot.name} hold {HOLDS[holds]}, and {HOLDS[needs]} is delivered: {happens}."
            mend = Fix(
                f"Write {needs} files of {shot.name}", set_row(shot.name, colour=needs, pattern=_ending(row, needs))
            )
            found.append(wrong(name, words, f"Write {needs} files.", shot.name, mend))
    return found


def colour_of(row: LaunchRow) -> Colour:
    """Return what files hold: as the launch says; else as their format does by common practice, no source."""
    if row.colour:
        return row.colour
    ending = ending_of(row.pattern)
    if ending not in FORMATS or ending in ("tif", "tiff"):
        return ""
    return "scene-linear" if FORMATS[ending][3] else "display"


def _ending(row: LaunchRow, needs: Colour) -> str:
    """Return a name pattern whose format can hold what is needed."""
    if needs == "scene-linear" and ending_of(row.pattern) in FORMATS and not FORMATS[ending_of(row.pattern)][3]:
        return f"{row.pattern.rpartition('.')[0]}.exr"
    return row.pattern
