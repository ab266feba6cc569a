"""Numbers in a line of words that may be two others: ``1,440 frames``, ``-5 frames``. Pure text.

A mark before three digits stands before decimals, between thousands, or between two numbers of a list. Where only one
of these can be meant the number is written plainly; else it is refused, and the words that hold it are said.
"""

import re

# Groups of three digits with one kind of mark before each, and the word behind them.
_GROUPED = re.compile(
    r"(?:(?<![\w.,:-])|(?<=\dx))(\d{1,3})((?:,\d{3}){1,4}|(?:\.\d{3}){1,4})(?![\d:]|[.,]\d)( ?[a-z]{0,20})",
    re.IGNORECASE,
)
_MINUS = re.compile(r"(?:^|(?<=[\s,;(]))[-−]\d[\d.,]{0,20}(?: ?[a-z]{1,20})?", re.IGNORECASE)
# What is counted one by one and never listed, of which a part cannot be.
_WHOLE = ("sample", "machine", "computer", "workstation", "pixel", "px")
_RATES = ("fps",)
_FASTEST = 1000


def plain_numbers(text: str) -> tuple[str, tuple[str, ...]]:
    """Return a line in which every number is written plainly, and what is wrong with those that cannot be.

    Parameters
    ----------
    text : str

    Returns
    -------
    text : str
        Without what was refused.
    problems : tuple of str

    Examples
    --------
    >>> plain_numbers("250 frames, 1,024 samples, 23.976 fps")
    ('250 frames, 1024 samples, 23.976 fps', ())
    >>> plain_numbers("1,440 frames")[1]
    ('“1,440 frames” can be 1440 frames, or 1 and 440; write 1440, or “1 and 440”.',)
    """
    problems: list[str] = []

    def below_zero(match: re.Match[str]) -> str:
        problems.append(f"“{match[0]}” is below zero; write it without the minus.")
        return " , "

    def plain(match: re.Match[str]) -> str:
        first, groups, word = match[1], match[2], match[3]
        mark, unit = groups[0], word.strip().lower()
        joined = first + groups.replace(mark, "")
        decimal = f"{first}.{groups[1:]}" if groups.count(mark) == 1 else ""
        if decimal and first == "0":
            return decimal + word
        sides = unit == "x" or match.string[match.start() - 1 : match.start()] == "x"  # of a picture
        zeros = any(part.startswith("0") for part in groups[1:].split(mark))  # nobody lists 000
        if first != "0" and (unit.startswith(_WHOLE) or sides or (zeros and not decimal)):
            return joined + word
        if unit in _RATES and decimal and int(joined) > _FASTEST:
            return decimal + word
        if mark == "." and unit.startswith("frame") and first != "0":
            return joined + word
        if mark == "." and decimal and not unit.startswith(("frame", "shot")):
            return match[0]  # a point stands before decimals, as this program writes them
        parts = [first, *groups[1:].split(mark)]
        if mark == "," and unit.startswith(("frame", "f")) and unit not in _RATES:
            listed = " and ".join(parts)
            what = f"{joined}{word}, or {listed}; write {joined}, or “{listed}”"
        else:
            what = f"{joined}{word}" + (f", or {decimal.rstrip('0').rstrip('.')}" if decimal else "")
            what += f"; write {joined}" + (f", or {decimal.rstrip('0').rstrip('.')}" if decimal else "")
        problems.append(f"“{match[0].strip()}” can be {what}.")
        return " , "

    text = _MINUS.sub(below_zero, text)
    text = _GROUPED.sub(plain, text)
    return text, tuple(problems)
