"""Checks a frame that has arrived: readable to its last row, of the right size, numbers, more than one colour. Files.

What is wrong is said in a few words. What only looks odd beside its neighbours is no error: see `odd_frames.py`.
"""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from hashlib import blake2b
from pathlib import Path
from typing import Any

import numpy as np

from pemlo.core.errors import PemloError, Problem
from pemlo.core.files.header import OURS, Header
from pemlo.core.files.picture_file import PictureFile
from pemlo.core.foreign import shown
from pemlo.core.persistence.trial_header import is_ours, read_fields
from pemlo.core.pixels.luma import LUMA
from pemlo.core.pixels.source import F32
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.timed_sizes import Size
from pemlo.core.units import LONGEST_S, counted

# Of a small picture that stands for one of a planned size: that size, and its own.
STAND_IN_OF, STAND_IN_SIZE = f"{OURS}stand_in_of", f"{OURS}stand_in_size"
_STRIP_PIXELS = 1_000_000
_FLAT = 1e-6  # of the brightest: a picture that varies less is of one colour
_SIDE = re.compile(r"[0-9]{1,6}")
# What a header may say of a frame, more than the first and up to the second.
_BELIEVED = {"seconds": (0.0, LONGEST_S), "memory_gib": (0.0, 1e6)}
_MEDIAN = 0.6744897501960817
# What a header may say that a plan decides, and what it is called.
COMPARED = {
    "samples": "samples", "min_samples": "min samples", "noise_threshold": "noise threshold", "denoise": "denoise",
    "resolution_percent": "resolution", "switches": "switches", "split": "sampling split",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Checked:
    """What a frame's picture is.

    Attributes
    ----------
    trouble : str
        What is wrong with it, in a few words; empty if nothing is.
    readable : bool
    width, height : int
        px; 0 if it cannot be read.
    channels : int
    brightness : float
        Mean, scene-linear.
    noise : float
        Of neighbouring pixels, over the brightness.
    digest : str
        Of its pixels.
    said : dict
        What its header says, as fields of a trial.
    not_read : str
        What its header says and cannot be read, in words; empty if all can.
    """

    trouble: str
    readable: bool
    width: int = 0
    height: int = 0
    channels: int = 0
    brightness: float = 0.0
    noise: float = 0.0
    digest: str = ""
    said: Mapping[str, Any] | None = None
    not_read: str = ""

    @property
    def told(self) -> str:
        """What is wrong with it, as the rest of a sentence that begins with its name."""
        return self.trouble if self.trouble.startswith("is ") else f"cannot be used: {self.trouble.rstrip('.')}"


# What damaged pictures raise in the libraries that read them: one of them is one frame less, and ends nothing.
_BREAKS = (ValueError, TypeError, LookupError, ArithmeticError, RuntimeError, MemoryError, OSError)


def check_frame(
    path: Path, wanted: Size, names: Mapping[str, str] | None = None, or_else: Size | None = None
) -> Checked:
    """Check a picture.

    Parameters
    ----------
    path : path
    wanted : (int, int)
        Width and height that are planned, px.
    names : mapping of str to str, optional
        Which attribute of its header holds what, where that is not our own.
    or_else : (int, int), optional
        Another size that is as good: a frame that is rendered larger may be brought to its size before it is written.
    """
    try:
        with PictureFile(path) as picture:
            planned = wanted if or_else is None or picture.size != or_else else or_else
            return _checked(picture, planned, names or {})
    except PemloError as error:
        return Checked(error.message, readable=False)
    except _BREAKS:
        return Checked("is damaged and cannot be read to its end", readable=False)


def reads_to_its_end(path: Path) -> bool:
    """Return whether a picture's last row can be read: of one that is still being written, or broke off, it cannot."""
    try:
        with PictureFile(path) as picture:
            height = picture.size[1]
            picture.channels(picture.layer.channels, height - 1, height)
    except (PemloError, *_BREAKS):
        return False
    return True


def _checked(picture: PictureFile, wanted: Size, names: Mapping[str, str]) -> Checked:
    width, height = picture.size
    digest = blake2b(digest_size=12)
    total, bad, low, high, differences = 0.0, 0, np.inf, -np.inf, []
    step = max(2, _STRIP_PIXELS // width)
    numbers = picture.layer.channels
    for first in range(0, height, step):
        raw = picture.channels(numbers, first, min(first + step, height))
        digest.update(raw.tobytes())
        good = np.isfinite(raw)
        bad += int((~good.all(axis=-1)).sum())
        values = np.where(good, raw, 0.0)
        low, high = min(low, float(values.min())), max(high, float(values.max()))
        grey = _grey(values)
        total += float(grey.sum())
        differences.append(_middle_difference(grey))
    brightness = total / (width * height)
    noise = float(np.median(differences)) / max(abs(brightness), 1e-9)
    said, not_read = _said(picture.header, names)
    trouble = _trouble((width, height), _planned(picture.header, wanted), bad, low, high)
    return Checked(trouble, True, width, height, len(numbers), brightness, noise, digest.hexdigest(), said, not_read)


def _grey(values: F32) -> F32:
    return np.asarray(
        values[..., :3] @ np.asarray(LUMA, np.float32) if values.shape[-1] >= 3 else values[..., 0], np.float32
    )


def _middle_difference(grey: F32) -> float:
    """Return the deviation of noise in a strip: from differences of pixels two by two, whose middle edges hardly move.

    The diagonal wavelet of Haar; see `pemlo.core.measure.wavelet`, which is finer and slower.
    """
    rows, columns = (length // 2 * 2 for length in grey.shape)
    if rows < 2 or columns < 2:
        return 0.0
    block = grey[:rows, :columns]
    diagonal = (block[::2, ::2] - block[::2, 1::2] - block[1::2, ::2] + block[1::2, 1::2]) / 2
    return float(np.median(np.abs(diagonal))) / _MEDIAN


def _planned(header: Header, wanted: Size) -> Size:
    """Return the size that a picture is to have: that which it names, where it stands for one of the planned size."""
    if header.attributes.get(STAND_IN_OF) != f"{wanted[0]}x{wanted[1]}":
        return wanted
    width, _, height = header.attributes.get(STAND_IN_SIZE, "").partition("x")
    return (int(width), int(height)) if _SIDE.fullmatch(width) and _SIDE.fullmatch(height) else wanted


def _trouble(size: Size, planned: Size, bad: int, low: float, high: float) -> str:
    if size != planned:
        return f"is {size[0]}×{size[1]} px, and {planned[0]}×{planned[1]} are planned"
    if bad:
        return f"{counted(bad, 'pixel')} hold no number"
    if high - low <= _FLAT * max(abs(high), abs(low), 1e-30):
        return "is black all over" if abs(high) <= _FLAT else "is of one colour all over"
    return ""


def _said(header: Header, names: Mapping[str, str]) -> tuple[dict[str, Any], str]:
    """Return what a header says, and in words what in it cannot be read."""
    if not is_ours(header) and not names:
        return {}, ""
    found, problems = read_fields(header, names)
    for field, (low, high) in _BELIEVED.items():
        value = found.get(field)
        if value is not None and not low < value <= high:
            problems.append(Problem(f"{header.path.name}, {field}", f"{value:g} is out of range"))
            del found[field]
    where = f"{header.path.name}, "
    return found, "; ".join(shown(str(problem).removeprefix(where), 120) for problem in problems)


def settings_differ(said: Mapping[str, Any], planned: FrameSettings) -> str:
    """Say in what a header's settings are others than the plan's; empty if in nothing."""
    found = []
    for field, name in COMPARED.items():
        if field not in said or (field == "min_samples" and not planned.adaptive):
            continue
        want = planned.least_samples if field == "min_samples" else getattr(planned, field)
        have = said[field]
        if _word(have) != _word(want):
            found.append(f"{name} {_word(have)}, planned {_word(want)}")
    return "; ".join(found)


def _word(value: object) -> str:
    if isinstance(value, tuple | list):
        return shown(", ".join(map(str, value)), 60) or "none"
    return "none" if value in {None, "", 0} else f"{value:g}" if isinstance(value, float) else shown(str(value), 60)
