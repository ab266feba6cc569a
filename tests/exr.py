"""Writing small EXR files in tests."""

import numpy as np
import OpenImageIO as oiio


def write_exr(path, colour, variance=None, layers=(), attributes=()):
    """Write (H, W, 3) colour, its variance, and layers: (name, (H, W) brightness, its variance)."""
    parts, names = [colour], ["R", "G", "B"]
    if variance is not None:
        parts.append(variance)
        names += [f"variance.{letter}" for letter in "RGB"]
    for name, bright, noise in layers:
        parts += [bright[..., None], noise[..., None]]
        names += [f"{name}.Y", f"variance.{name}.Y"]
    spec = oiio.ImageSpec(colour.shape[1], colour.shape[0], len(names), "float")
    spec.channelnames = names
    for name, value in dict(attributes).items():
        spec.attribute(name, value)
    out = oiio.ImageOutput.create(str(path))
    assert out.open(str(path), spec)
    assert out.write_image(np.concatenate(parts, axis=2).astype(np.float32))
    out.close()
    return path
