"""Files of frames for tests, in the types that people have."""

import numpy as np
import OpenImageIO as oiio


def write(path, pixels, kind="float", **attributes):
    spec = oiio.ImageSpec(pixels.shape[1], pixels.shape[0], 3, kind)
    for name, value in attributes.items():
        spec.attribute(name.replace("__", ":"), value)
    out = oiio.ImageOutput.create(str(path))
    assert out.open(str(path), spec)
    out.write_image(np.ascontiguousarray(pixels, np.float32))
    out.close()
    return path


def ramp(size=(48, 32), seed=0):
    base = np.linspace(0.1, 0.8, size[0])[None, :, None] * np.ones((size[1], 1, 3))
    return np.asarray(base + 0.02 * np.random.default_rng(seed).standard_normal(base.shape), np.float32)
