"""Writes frames as EXR through OpenImageIO, and reads them back. Files only.

Channels: R, G, B (colour, denoised if that was asked); noisy.R, .G, .B (before denoising, only then); albedo.R, .G, .B;
normal.X, .Y, .Z; depth.Z (metres); variance.R, .G, .B (of the pixel's mean before denoising); samples.N. If light
is split by source: shadow.R, .G, .B (from lights), gloss.R…, through.R…, and variance.shadow.Y,
variance.gloss.Y, variance.through.Y, of the mean brightness of each.
The header's attributes are listed in `HEADER`; each starts with ``pemlo:``.
"""

import secrets
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import numpy.typing as npt
import OpenImageIO as oiio

from pemlo.core.errors import FileError
from pemlo.core.files.header import OURS

# What the header says, and in which unit.
HEADER = {
    "scene": "name of the scene",
    "frame": "frame number",
    "full_width": "width of the frame at 100 %, px",
    "full_height": "height of the frame at 100 %, px",
    "resolution_percent": "of each side",
    "region": "left, top, right, bottom in px at 100 %; or whole",
    "samples": "samples a pixel, the most with a threshold",
    "min_samples": "min samples a pixel, with a threshold",
    "noise_threshold": "in the renderer's scale; 0 for fixed sampling",
    "mean_samples": "samples a pixel that were spent on average",
    "seed": "same seed, same samples",
    "denoise": "way of denoising",
    "keep": "stages whose data were to be kept; or nothing",
    "read_back": "stages whose data were there and were used; or nothing",
    "most_seconds": "after which tracing ends, s; 0 for no such cap",
    "switches": "what is switched on; or none",
    "saves": "how often the unfinished frame was written",
    "memory_gib": "the most that the renderer held, GiB",
    "disk_mib": "what the file takes without light by source, MiB",
    "split": "rays a sample at the first surface: shadow, gloss, through",
    "threads": "how many threads traced",
    "machine": "which machine rendered it",
    "first_run": "1 if it was the first frame of its process, which also loads and compiles",
    "seconds": "all stages together, when the machine does nothing else: processor seconds, shared out over threads",
    "prepare_seconds": "the same, of each stage",
    "light_seconds": "",
    "trace_seconds": "",
    "denoise_seconds": "",
    "write_seconds": "of a first writing to the same place",
    "wall_seconds": "all stages together, on the wall",
    "noise": "standard error of the pixels over the mean brightness, before denoising",
    "noise_shape": "log noise of one sample at equal shares of the frame, rising; see pemlo.core.cost.noise_shape",
}


@dataclass(frozen=True)
class Channels:
    """A picture as a file has it: names of channels, (H, W, C) pixels, and the header's own attributes."""

    names: tuple[str, ...]
    pixels: npt.NDArray[np.float32]
    header: dict[str, str | float | int]


def write_exr(path: Path, channels: Channels, half: bool = True) -> None:  # noqa: FBT002 - half or float
    """Write a picture. Nothing is left under the final name unless it is whole.

    Parameters
    ----------
    path : path
        Ends in ``.exr``.
    channels : Channels
    half : bool
        16 bits a value for all channels but depth and samples; else 32.

    Raises
    ------
    FileError
        If it cannot be written.
    """
    height, width, count = channels.pixels.shape
    full = ("depth.", "samples.", "variance.")
    formats = tuple("half" if half and not name.startswith(full) else "float" for name in channels.names)
    # Formats that are all alike are not looked at one by one: the format of the whole says it.
    spec = oiio.ImageSpec(width, height, count, formats[0] if len(set(formats)) == 1 else "float")
    spec.channelnames = channels.names
    spec.channelformats = formats
    spec.attribute("compression", "zip")
    spec.attribute("Software", "Pemlo")
    for name, value in channels.header.items():
        spec.attribute(OURS + name, value)
    part = path.with_name(f".{secrets.token_hex(8)}.part.exr")  # a name that nobody can have put a link under
    try:
        out = oiio.ImageOutput.create(str(part))
        if out is None or not out.open(str(part), spec):
            raise _unwritable(path, out.geterror() if out else oiio.geterror())
        if not out.write_image(np.ascontiguousarray(channels.pixels, np.float32)) or not out.close():
            raise _unwritable(path, out.geterror())
        part.replace(path)
    except OSError as error:
        raise _unwritable(path, error.strerror or str(error)) from error
    finally:
        part.unlink(missing_ok=True)


def _unwritable(path: Path, why: str) -> FileError:
    last_line = (why.strip().splitlines() or ["the reason is not known"])[-1]
    return FileError(
        f"The picture cannot be written to {path}: {last_line}.",
        "See that the folder exists, may be written to and has space left.",
    )


def read_exr(path: Path) -> Channels:
    """Read a picture and its header.

    Raises
    ------
    FileError
        If it cannot be read.
    """
    file = oiio.ImageInput.open(str(path))
    if file is None:
        raise FileError(f"{path} cannot be read as a picture.", oiio.geterror().strip().splitlines()[-1:][0])
    try:
        spec = file.spec()
        pixels = file.read_image("float")
        if pixels is None:
            raise FileError(f"{path} cannot be read as a picture.", file.geterror())
        return Channels(tuple(spec.channelnames), np.asarray(pixels), header_of(spec))
    finally:
        file.close()


def header_of(spec: oiio.ImageSpec) -> dict[str, str | float | int]:
    """Return our attributes of a header, without their prefix."""
    attributes = {attribute.name: attribute.value for attribute in spec.extra_attribs}
    return {
        name.removeprefix(OURS): value
        for name, value in attributes.items()
        if name.startswith(OURS) and isinstance(value, str | float | int)
    }
