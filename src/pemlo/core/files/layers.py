"""Which channels of a picture belong together. Pure."""

from dataclasses import dataclass

COLOUR = ""
VARIANCE = "variance"
_SETS = (("r", "g", "b"), ("red", "green", "blue"), ("x", "y", "z"), ("u", "v", "w"))
_GREY, _ALPHA = {"y", "l", "i"}, {"a", "alpha"}


@dataclass(frozen=True)
class Layer:
    """Channels that are shown as one colour: three numbers of channels, the same thrice where there is but one."""

    name: str
    channels: tuple[int, int, int]

    @property
    def single(self) -> bool:
        return len(set(self.channels)) == 1


def layers_of(channels: tuple[str, ...]) -> tuple[Layer, ...]:
    """Return the layers of a picture, its colour first; alpha counts for none.

    A layer is what stands before the last point of a channel's name.

    Examples
    --------
    >>> [layer.name for layer in layers_of(("R", "G", "B", "A", "depth.Z", "albedo.R", "albedo.G", "albedo.B"))]
    ['', 'depth', 'albedo']
    """
    groups: dict[str, dict[str, int]] = {}
    for number, channel in enumerate(channels):
        name, _, letter = channel.rpartition(".")
        groups.setdefault(name, {})[letter.lower()] = number
    layers = []
    for name, letters in groups.items():
        known = next((those for those in _SETS if set(those) <= set(letters)), ())
        if known:
            red, green, blue = (letters[letter] for letter in known)
            layers.append(Layer(name, (red, green, blue)))
        rest = {letter: number for letter, number in letters.items() if letter not in _ALPHA and letter not in known}
        for letter, number in rest.items():
            grey = not name and not known and letter in _GREY
            alone = name and len(rest) == 1 and not known
            layers.append(Layer(COLOUR if grey else name if alone else channels[number], (number,) * 3))
    return tuple(sorted(layers, key=lambda layer: layer.name != COLOUR))


def variance_of(layer: Layer, layers: tuple[Layer, ...]) -> Layer | None:
    """Return the layer that holds the variance of another's means: ``variance``, or ``variance.`` and its name."""
    wanted = VARIANCE if layer.name == COLOUR else f"{VARIANCE}.{layer.name}"
    return next((one for one in layers if one.name.lower() == wanted.lower()), None)
