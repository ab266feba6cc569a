"""From scene-linear light to the codes of an 8-bit display, and what noise in light becomes there. Compiled inside.

Noise falls as one over the root of the samples in scene-linear light only. So it is known there, and carried through
the display's curve by quadrature: what the curve and its clipping make of a pixel that varies.
"""

from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any, Protocol

import numpy as np
import numpy.typing as npt

from pemlo.core.compiler import numba
from pemlo.core.errors import FileError, InputError, Problem
from pemlo.core.pixels.curve import CODES, to_display

F32 = npt.NDArray[np.float32]
_TABLE = 8192  # at so many steps, straight lines between them are within 0.002 codes of the curve
_NODES = 5
# Where the mean lies so many standard deviations from black and from white, and above the straight piece of the curve,
# x^(1/2.4) is near its series: from its second to fourth derivatives follow these factors of (sd / mean)².
_GENTLE, _ABOVE_TOE = 4.0, 0.0125
_SLOPE_1, _SLOPE_2, _SLOPE_3 = 1 / 2.4 - 1, 1 / 2.4 - 2, 1 / 2.4 - 3
_SQUARE_2 = 0.5 * _SLOPE_1**2 + _SLOPE_1 * _SLOPE_2
_SHIFT_1, _SHIFT_3 = -_SLOPE_1 / 2, -_SLOPE_1 * _SLOPE_2 * _SLOPE_3 / 8


class Display(Protocol):
    """A way of showing scene-linear light."""

    def codes(self, linear: F32) -> F32:
        """Return display codes, 0 to 255 and not rounded, of (..., 3) scene-linear values."""

    def spread(self, mean: F32, variance: F32) -> tuple[F32, F32]:
        """Return what values that vary normally become: variance in codes², and how far the mean moves, codes."""


@dataclass(frozen=True)
class Srgb:
    """The curve of IEC 61966-2-1, after an exposure in stops."""

    stops: float = 0.0

    @property
    def gain(self) -> float:
        return float(2.0**self.stops)

    @property
    def _gain32(self) -> Any:  # noqa: ANN401 - the compiled loops reckon with 32 bits throughout
        return np.float32(self.gain)

    def codes(self, linear: F32) -> F32:
        values = np.ascontiguousarray(linear, np.float32)
        out = np.empty_like(values)
        _codes(values.ravel(), self._gain32, _table(), out.ravel())
        return out

    def spread(self, mean: F32, variance: F32) -> tuple[F32, F32]:
        """Return variance and shift by Gauss-Hermite quadrature.

        References
        ----------
        .. [1] G. Golub, J. Welsch, "Calculation of Gauss quadrature rules", Math. Comp. 23, 1969 (from memory).
        """
        mean, variance = (np.ascontiguousarray(values, np.float32) for values in (mean, variance))
        square, shift = np.empty_like(mean), np.empty_like(mean)
        nodes, weights = _rule()
        _spread(
            mean.ravel(),
            variance.ravel(),
            self._gain32,
            _table(),
            nodes,
            weights,
            square.ravel(),
            shift.ravel(),
        )
        return square, shift


@dataclass(frozen=True)
class View:
    """A view of a colour configuration in the open format of OpenColorIO.

    Colours vary together under it: the same normal number moves red, green and blue.
    """

    configuration: str
    display: str
    view: str
    stops: float = 0.0

    def codes(self, linear: F32) -> F32:
        values = np.array(linear, np.float32, order="C") * np.float32(2.0**self.stops)
        _processor(self.configuration, self.display, self.view).applyRGB(values)
        return np.asarray(np.float32(CODES) * np.clip(values, 0.0, 1.0), np.float32)

    def spread(self, mean: F32, variance: F32) -> tuple[F32, F32]:
        sd = np.sqrt(np.maximum(variance, 0.0))
        first = second = np.zeros(mean.shape, np.float32)
        for node, weight in zip(*_rule(), strict=True):
            shown = self.codes(mean + node * sd)
            first, second = first + weight * shown, second + weight * shown**2
        return np.maximum(second - first**2, 0.0), first - self.codes(mean)


def views_of(configuration: Path) -> tuple[tuple[str, str], ...]:
    """Return display and view names of a colour configuration.

    Raises
    ------
    FileError
        If it cannot be read.
    """
    found = _configuration(str(configuration))
    return tuple((display, view) for display in found.getDisplays() for view in found.getViews(display))


def check_view(view: View) -> None:
    """Refuse a view that its configuration does not have.

    Raises
    ------
    FileError
        If the configuration cannot be read.
    InputError
        If the view is not in it.
    """
    known = views_of(Path(view.configuration))
    if (view.display, view.view) not in known:
        listed = "; ".join(f"{display} / {name}" for display, name in known[:8])
        raise InputError([Problem("view", f"“{view.display} / {view.view}” is not there")], f"There are: {listed}.")


@cache
def _configuration(path: str) -> Any:  # noqa: ANN401 - the library has no types
    import PyOpenColorIO as ocio  # noqa: N813, PLC0415 - only loaded when a configuration is named

    try:
        return ocio.Config.CreateFromFile(path)
    except (ocio.Exception, ocio.ExceptionMissingFile) as error:
        raise FileError(f"{path} cannot be read as a colour configuration: {str(error).strip()[:200]}.") from error


@cache
def _processor(path: str, display: str, view: str) -> Any:  # noqa: ANN401 - the library has no types
    import PyOpenColorIO as ocio  # noqa: N813, PLC0415 - as above

    transform = ocio.DisplayViewTransform(src=ocio.ROLE_SCENE_LINEAR, display=display, view=view)
    try:
        return _configuration(path).getProcessor(transform).getDefaultCPUProcessor()
    except ocio.Exception as error:
        raise FileError(f"{path} has no way from scene-linear light to {display} / {view}: {error}.") from error


@cache
def _table() -> F32:
    codes = CODES * to_display(np.linspace(0.0, 1.0, _TABLE + 1))
    return np.append(codes, codes[-1]).astype(np.float32)


@cache
def _rule() -> tuple[F32, F32]:
    nodes, weights = np.polynomial.hermite_e.hermegauss(_NODES)
    return nodes.astype(np.float32), (weights / weights.sum()).astype(np.float32)


@numba.njit(inline="always")
def _code(value: Any, table: F32) -> Any:  # noqa: ANN401 - a number of any kind
    place = min(max(value, np.float32(0.0)), np.float32(1.0)) * np.float32(_TABLE)
    cell = int(place)
    low = table[cell]
    return low + (place - np.float32(cell)) * (table[cell + 1] - low)


@numba.njit(cache=True, nogil=True, fastmath=True)
def _codes(linear: F32, gain: float, table: F32, out: F32) -> None:
    for i in range(linear.size):
        out[i] = _code(linear[i] * gain, table)


@numba.njit(cache=True, nogil=True, fastmath=True)
def _spread(
    mean: F32, variance: F32, gain: float, table: F32, nodes: F32, weights: F32, square: F32, shift: F32
) -> None:
    steps, gentle, toe, one = np.float32(_TABLE), np.float32(_GENTLE), np.float32(_ABOVE_TOE), np.float32(1.0)
    squared, first_order, third_order = np.float32(_SQUARE_2), np.float32(_SHIFT_1), np.float32(_SHIFT_3)
    for i in range(mean.size):
        centre, sd = mean[i] * gain, gain * np.sqrt(max(variance[i], np.float32(0.0)))
        if centre > toe and sd * gentle < centre and sd * gentle < one - centre:
            # The curve is a power here and hardly bends over the noise: a few terms of its series are enough.
            cell = int(centre * steps)
            height, off = (table[cell + 1] - table[cell]) * steps * sd, sd / centre
            square[i] = height * height * (one + squared * off * off)
            shift[i] = -height * off * (first_order + third_order * off * off)
            continue
        at = _code(centre, table)
        first = second = np.float32(0.0)
        for k in range(nodes.size):
            off = _code(centre + nodes[k] * sd, table) - at
            first += weights[k] * off
            second += weights[k] * off * off
        square[i] = max(second - first * first, np.float32(0.0))
        shift[i] = first
