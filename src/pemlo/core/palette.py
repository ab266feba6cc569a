"""The colours of the program by what they mean, as hex values of two themes. Imports nothing.

Petrol is time, mulberry is picture, brick is a limit and what breaks it, olive is money. Windows and
paper take them from here; nothing else spells a hex value.
"""

NAMES = (
    "window", "sheet", "raised", "line", "ink", "second", "faint", "time", "time_light", "picture", "picture_light",
    "limit", "limit_light", "money",
)  # fmt: skip


def _theme(values: str) -> dict[str, str]:
    return {name: f"#{value}" for name, value in zip(NAMES, values.split(), strict=True)}


DAY = _theme("E6E4DF F5F3EE FFFFFF C9C5BC 1E2326 565D63 656B71 1F5C66 CFE0E0 7B3F61 E8D6DF B8352B F0D5D1 66651F")
DIM = _theme("24272A 2C3034 363B40 464C52 E7E5DF AEB2B5 A0A5AA 7FB8BD 2F4447 D39AB8 46343E EB978A 4A322E C5C37A")
# Around pictures, in both themes: a grey that lends them no colour; and one dark enough for white words.
SURROUND, BARE, ON_PICTURE = "#777777", "#545454", "#FFFFFF"
