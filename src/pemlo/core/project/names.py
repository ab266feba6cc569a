"""What a name may hold: shots, machines and their like are shown in lines, and shots become names of files. Pure.

Names come from documents, tables, edits and folders that others wrote. What does not go is refused where it is typed or
read; of clips and files, whose names are not ours, it is replaced.
"""

from typing import Annotated

from pydantic import AfterValidator, Field

from pemlo.core.foreign import gives_orders

LONGEST_NAME = 60
_SEPARATORS = "/\\"


def unseen(text: str) -> str:
    r"""Return the first character that cannot be seen; empty if there is none.

    Examples
    --------
    >>> unseen("night 2"), unseen("a" + chr(27) + "[2J")
    ('', '\x1b')
    """
    return next((one for one in text if gives_orders(one)), "")


def one_line(text: str) -> str:
    """Return a text that stands in one line.

    Raises
    ------
    ValueError
        If it has a line break, or another character that cannot be seen.
    """
    one = unseen(text)
    if one:
        what = "a line break" if one in "\n\r\u2028\u2029" else f"a character that cannot be seen (U+{ord(one):04X})"
        raise ValueError(f"holds {what}; write it without")
    return text


def file_part(text: str) -> str:
    """Return a name that a file or a folder may have.

    Raises
    ------
    ValueError
        If it would lead elsewhere, be taken for an option, or cannot be seen whole.
    """
    one_line(text)
    found = next((one for one in text if one in _SEPARATORS), "")
    if found:
        raise ValueError(f"holds “{found}”, which a file name cannot; write - or _ instead")
    if text in (".", ".."):
        raise ValueError(f"“{text}” is a folder; give it another name")
    if text.startswith("-"):
        raise ValueError("begins with “-”, which programs take for an option; begin with a letter or a digit")
    return text


def safe_name(text: str) -> str:
    """Return a name of others as one that goes: what does not is replaced.

    Examples
    --------
    >>> safe_name("seq/010"), safe_name("../x"), safe_name("-rf"), safe_name("a" + chr(10) + "b")
    ('seq_010', '.._x', 'rf', 'a b')
    """
    seen = "".join(
        " " if one.isspace() else "_" if one in _SEPARATORS else one
        for one in text
        if one.isspace() or not gives_orders(one)
    )
    plain = seen.lstrip("- ")[:LONGEST_NAME].strip()
    return "" if plain in (".", "..") else plain


ShotName = Annotated[str, Field(min_length=1, max_length=LONGEST_NAME), AfterValidator(file_part)]
ShotNameOrNone = Annotated[str, Field(max_length=LONGEST_NAME), AfterValidator(file_part)]
Name = Annotated[str, Field(min_length=1, max_length=LONGEST_NAME), AfterValidator(one_line)]
NameOrNone = Annotated[str, Field(max_length=LONGEST_NAME), AfterValidator(one_line)]
PathText = Annotated[str, Field(max_length=4096), AfterValidator(one_line)]
