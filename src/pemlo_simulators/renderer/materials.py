"""What surfaces are made of, as scenes name it, and as the numbers that the tracer reads. Pure NumPy."""

from dataclasses import dataclass

import numpy as np

from pemlo.core.arrays import Floats

MATT, COAT, METAL, GLASS, LIGHT = range(5)
PLAIN, MOTTLE, GRAIN, LINES = range(4)

# Places in a material's row of numbers.
KIND, COLOUR, ROUGHNESS, IOR, SHINE, ABSORB, PATTERN, PATTERN_SIZE, SECOND, RIPPLE, RIPPLE_SIZE = (
    0, 1, 4, 5, 6, 9, 12, 13, 16, 19, 20,
)  # fmt: skip
ROW = 21

Colour = tuple[float, float, float]


@dataclass(frozen=True)
class Pattern:
    """How a surface's colour changes over it, between its own and a `second` one.

    `kind` is MOTTLE (clouds), GRAIN (clouds drawn out by `size` of each axis) or LINES (courses across the third
    axis); `size` is how large the features are along each axis, in metres.
    """

    kind: int
    size: Colour
    second: Colour


@dataclass(frozen=True)
class Material:
    """A surface: what it does with light.

    Attributes
    ----------
    kind : int
        MATT, COAT (matt under a clear coat), METAL (rough, GGX), GLASS (smooth) or LIGHT.
    colour : tuple of float
        Share of light that comes back at right angles, by red, green, blue; 0 to 1.
    roughness : float
        Of metal and coat; 0.02 is polished, 1 is dull. The width of GGX is its square.
    ior : float
        Refractive index inside relative to outside; a bubble of air in glass has less than 1.
    shine : tuple of float
        Radiance that a light gives off.
    absorb : tuple of float
        What glass swallows, per metre.
    ripple, ripple_size : float
        Slope and size (m) of small waves that bend the normal.
    """

    kind: int = MATT
    colour: Colour = (0.5, 0.5, 0.5)
    roughness: float = 0.3
    ior: float = 1.5
    shine: Colour = (0.0, 0.0, 0.0)
    absorb: Colour = (0.0, 0.0, 0.0)
    pattern: Pattern | None = None
    ripple: float = 0.0
    ripple_size: float = 1.0

    def row(self) -> Floats:
        """Return the material as `ROW` numbers."""
        row = np.zeros(ROW)
        row[KIND], row[ROUGHNESS], row[IOR] = self.kind, max(self.roughness, 0.02), self.ior
        row[COLOUR : COLOUR + 3], row[SHINE : SHINE + 3], row[ABSORB : ABSORB + 3] = (
            self.colour,
            self.shine,
            self.absorb,
        )
        row[RIPPLE], row[RIPPLE_SIZE] = self.ripple, self.ripple_size
        if self.pattern:
            row[PATTERN] = self.pattern.kind
            row[PATTERN_SIZE : PATTERN_SIZE + 3], row[SECOND : SECOND + 3] = self.pattern.size, self.pattern.second
        return row


def matt(colour: Colour, pattern: Pattern | None = None) -> Material:
    """Return a surface that scatters evenly (Lambert)."""
    return Material(MATT, colour, pattern=pattern)


def coat(colour: Colour, roughness: float = 0.15, pattern: Pattern | None = None, ior: float = 1.5) -> Material:
    """Return a matt surface under a clear coat: polished wood, glaze, wet stone."""
    return Material(COAT, colour, roughness, ior, pattern=pattern)


def metal(colour: Colour, roughness: float = 0.2, pattern: Pattern | None = None) -> Material:
    """Return a rough metal whose colour is its reflectance at right angles."""
    return Material(METAL, colour, roughness, pattern=pattern)


def glass(ior: float = 1.5, absorb: Colour = (0.0, 0.0, 0.0)) -> Material:
    """Return smooth glass."""
    return Material(GLASS, (1.0, 1.0, 1.0), ior=ior, absorb=absorb)


def light(shine: Colour) -> Material:
    """Return a surface that shines with a radiance."""
    return Material(LIGHT, (0.0, 0.0, 0.0), shine=shine)
