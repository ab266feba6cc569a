"""Shows what others wrote: names of files, headers, lines of logs, with nothing in them that gives orders. Pure text.

A terminal obeys escapes, a window turns the direction of writing: whatever cannot be seen is shown by its number. What
a shell, a table program or a page would run is quoted where it is written, see `docs/method/safety.md`.
"""

import unicodedata

_ORDERS = frozenset({"Cc", "Cf", "Cs", "Zl", "Zp"})
_LINES = "\n\t"
LONGEST_SHOWN = 80


def gives_orders(one: str) -> bool:
    """Whether a character cannot be seen, and may change what is seen around it."""
    return unicodedata.category(one) in _ORDERS


def visible(text: str) -> str:
    r"""Return a text in which every character that gives orders stands by its number; ends of lines stay.

    Examples
    --------
    >>> print(visible("a" + chr(27) + "[2J" + chr(0x202E) + "b"))
    a\x1b[2J\u202eb
    """
    if text.replace("\n", "").isprintable():
        return text
    made = []
    for number, one in enumerate(text):
        if one in _LINES or (one == "\r" and text[number + 1 : number + 2] == "\n") or not gives_orders(one):
            made.append(one)
        else:
            made.append(f"\\x{ord(one):02x}" if ord(one) < 0x100 else f"\\u{ord(one):04x}")
    return "".join(made)


def shown(name: str, most: int = LONGEST_SHOWN) -> str:
    r"""Return what others called a thing, in one line of bounded length, for a sentence.

    Examples
    --------
    >>> print(shown("a" + chr(0xDCFF) + ".exr"), shown("a" + chr(10) + "b"), len(shown("x" * 300)))
    a\udcff.exr a b 80
    """
    text = visible(" ".join(name[: 4 * most].split()))
    return text if len(text) <= most else f"{text[: most - 20]}…{text[-19:]}"
