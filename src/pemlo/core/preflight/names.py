"""Checks of file names: shot and digits in them, order, characters, two shots in one name. Pure."""

import re

from pemlo.core.arrivals.place import place_of, with_frame_field
from pemlo.core.preflight.check_context import CheckContext
from pemlo.core.preflight.finding import Finding, Fix, fine, not_known, wrong
from pemlo.core.preflight.fixes import set_row
from pemlo.core.preflight.pictures import ending_of
from pemlo.core.preflight.written_paths import MOVIES, one_file

# What file systems of others do not take.
_BREAKS = re.compile(r'[<>:"|?*\x00-\x1f\\]')
_RESERVED = {"con", "prn", "aux", "nul", *(f"com{k}" for k in range(1, 10)), *(f"lpt{k}" for k in range(1, 10))}


def name_can_be_read(here: CheckContext) -> list[Finding]:
    """Each name has its frame, in enough digits to sort in film order."""
    name, found = "file names", []
    for shot, row in here.each():
        if not row.pattern:
            found.append(
                not_known(name, f"What frames of {shot.name} are called is not known.", "Say a pattern.", shot.name)
            )
            continue
        if ending_of(row.pattern) in MOVIES:
            words = f"What frames of {shot.name} are called is not known while it is rendered into a movie."
            found.append(not_known(name, words, "Render pictures.", shot.name))
            continue
        if shot.still and one_file(row):
            found.append(fine(name, shot.name))
            continue
        pattern = with_frame_field(row.pattern)
        try:
            place_of(pattern)
            trouble = ""
        except ValueError as error:
            trouble = str(error) if "{frame" in pattern else ""
        if trouble:
            words = f"Names of {shot.name} cannot be read: {trouble.partition(';')[0]}."
            mend = Fix(f"Use 4 digits for {shot.name}", set_row(shot.name, pattern="{shot}.{frame:04}.exr"))
            found.append(wrong(name, words, "Use {shot}.{frame:04}.exr.", shot.name, mend))
            continue
        digits = re.search(r"\{frame(?::0?(\d{1,9}))?\}", pattern)
        if digits is None:
            words = f"Names of {shot.name} ({row.pattern}) have no frame: every frame would overwrite the last."
            mend = Fix(f"Number the frames of {shot.name}", set_row(shot.name, pattern="{shot}.{frame:04}.exr"))
            found.append(wrong(name, words, "Use {shot}.{frame:04}.exr.", shot.name, mend))
            continue
        needed = len(str(max(abs(row.last or shot.last), abs(row.first or shot.first))))
        if int(digits[1] or 1) < needed:
            words = f"Frames of {shot.name} have {needed} digits, and its names {digits[1] or 1}: "
            words += "they do not sort in film order."
            pattern = pattern[: digits.start()] + f"{{frame:0{max(needed, 4)}}}" + pattern[digits.end() :]
            mend = Fix(f"Use {max(needed, 4)} digits for {shot.name}", set_row(shot.name, pattern=pattern))
            found.append(wrong(name, words, f"Use {pattern}.", shot.name, mend))
        elif row.first is not None and row.first < 0:
            words = f"Frames of {shot.name} begin at {row.first}: names with a minus do not sort in film order."
            found.append(wrong(name, words, "Number its frames higher, or give it fewer handles.", shot.name))
        else:
            found.append(fine(name, shot.name))
    return found


def characters_travel(here: CheckContext) -> list[Finding]:
    """No character in a name breaks other systems."""
    name, found = "characters", []
    for shot, row in here.each():
        filled = re.sub(r"\{frame[^}]*\}", "1", with_frame_field(row.pattern)).replace("{shot}", shot.name)
        filled = re.sub(r"\{\w+\}", "x", filled)
        bad = sorted(set(_BREAKS.findall(filled)))
        stem = filled.split(".")[0].lower()
        if bad:
            words = f"Names of {shot.name} hold {' '.join(bad)}, which other systems do not take."
            plain = _plain(row.pattern)
            mend = Fix(f"Call them {plain}", set_row(shot.name, pattern=plain)) if plain != row.pattern else None
            found.append(wrong(name, words, "Use letters, digits, - and _.", shot.name, mend))
        elif stem in _RESERVED or filled != filled.strip(" .") or any(ord(one) > 127 for one in filled):
            words = f"The name {filled} of {shot.name} is not taken by every system."
            found.append(wrong(name, words, "Use plain letters, digits, - and _.", shot.name))
        else:
            found.append(fine(name, shot.name))
    return found


def _plain(pattern: str) -> str:
    """Return a pattern whose own letters every system takes; its fields stay."""
    parts = re.split(r"(\{frame(?::0?\d+)?\}|\{\w+\})", pattern)
    return "".join(part if part.startswith("{") else _BREAKS.sub("_", part) for part in parts)


def names_are_apart(here: CheckContext) -> list[Finding]:
    """No two shots write into one name, also where capitals count for nothing."""
    name = "two shots in one name"
    owner: dict[str, str] = {}
    clashes: dict[str, str] = {}
    for (shot, _), paths in zip(here.each(), here.paths, strict=True):
        for path in paths:
            other = owner.setdefault(path.casefold(), shot.name)
            if other != shot.name:
                clashes.setdefault(shot.name, other)
    return [
        wrong(
            name, f"{shot.name} and {clashes[shot.name]} write into the same files.",
            "Put {shot} into the pattern or the folder.", shot.name,
            Fix(f"Put {shot.name} into its names", set_row(shot.name, pattern="{shot}.{frame:04}.exr")),
        )
        if shot.name in clashes
        else fine(name, shot.name)
        for shot in here.project.shots
    ]  # fmt: skip
