"""Programs that Pemlo does not know, as renderers: each works, draws, and has words of its own."""

import sys

# A picture as plain PNG, by the standard library alone: any program could write it.
PNG = """
import struct, zlib
def png(path, width, height, grey=None):
    rows = b""
    for y in range(height):
        rows += b"\\0" + bytes((grey if grey is not None else (x * 7 + y * 13) % 200 + 20) for x in range(width) for _ in range(3))
    def chunk(kind, data):
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))
    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    with open(path, "wb") as file:
        file.write(b"\\x89PNG\\r\\n\\x1a\\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(rows)) + chunk(b"IEND", b""))
"""
ARGUMENTS = """
import os, sys, time
out, frame, samples, width, height = sys.argv[1], *map(int, sys.argv[2:6])
began = time.monotonic()
"""

BODIES = {
    # Works for a computed time: by the pixels, 0.005 s a sample at 64 by 36.
    "works": "time.sleep(0.05 + 0.005 * samples * width * height / 2304)\npng(out, width, height)\nprint(f'Frame {frame} took {time.monotonic() - began:.3f} s')",
    # As fast as its machine.
    "fast": "time.sleep((1.2 + 0.005 * samples * width * height / 2304) / float(os.environ.get('SPEED', '1')))\npng(out, width, height)",
    # Leaves its parent, which ends at once; the picture comes later.
    "forks": "if os.fork():\n    os._exit(0)\nos.setsid()\nif os.fork():\n    os._exit(0)\ntime.sleep(0.8)\npng(out, width, height)",
    # Does not hear a stop, and neither do its children.
    "deaf": "import signal\nfor one in (signal.SIGTERM, signal.SIGINT, signal.SIGHUP):\n    signal.signal(one, signal.SIG_IGN)\n"
            "for _ in range(3):\n    if os.fork() == 0:\n        os.setsid()\n        time.sleep(600)\ntime.sleep(600)",
    "prints": "block = 'x' * 99 + '\\n'\nfor _ in range(SIZE // 100_000):\n    sys.stdout.write(block * 1000)\npng(out, width, height)\nprint('done in 1.5 s')",
    "slow": "import io\nwhole = out + '.part'\npng(whole, width, height)\ndata = open(whole, 'rb').read()\n"
            "with open(out, 'wb', buffering=0) as file:\n    for at in range(0, len(data), len(data) // 8 + 1):\n"
            "        file.write(data[at : at + len(data) // 8 + 1])\n        time.sleep(0.1)\nos.unlink(whole)",
    "crashes": "if samples == 32:\n    print('light 3 has no map', file=sys.stderr)\n    sys.exit(3)\npng(out, width, height)",
    "holds": "held = bytearray(SIZE)\nfor at in range(0, SIZE, 4096):\n    held[at] = 1\ntime.sleep(0.8)\npng(out, width, height)",
    "nothing": "pass",
    "black": "png(out, width, height, grey=0)",
    "small": "png(out, width // 2, height // 2)",
    "cut": "png(out, width, height)\ndata = open(out, 'rb').read()\nopen(out, 'wb').write(data[: len(data) // 2])",
    "own format": "time.sleep(0.1)\nopen(out, 'w').write('MY PICTURE 1 2 3')\nprint(f'finished picture {frame}: 0m 1.25s, 96 rays')",
    "lingers": "png(out, width, height)\nif os.fork() == 0:\n    os.setsid()\n    time.sleep(600)",
    "endless": "png(out, width, height)\nwhile True:\n    pass",
    "killed": "os.kill(os.getpid(), 11)",
    "touches": "open(os.environ['PRECIOUS'], 'a').write('x')\npng(out, width, height)",
}  # fmt: skip


def program(folder, name, size=0):
    """Write a program into a folder, and return the command that renders a frame by it."""
    path = folder / f"{name.replace(' ', '_')}.py"
    path.write_text(PNG + ARGUMENTS + f"SIZE = {size}\n" + BODIES[name] + "\n")
    return f"{sys.executable} {path} {{out}} {{frame}} {{samples}} {{width}} {{height}}"


# Answers at once, as the small renderer would: an EXR whose header says times, noise and settings.
ANSWERS = """
import sys
import numpy as np
from pathlib import Path
from pemlo_simulators.renderer.exr import Channels, write_exr
scene, frame, width, height, percent, samples, threshold, region, denoise, seed, out = sys.argv[1:]
samples, threshold, share = int(samples), float(threshold), float(percent) / 100
size = round(int(width) * share), round(int(height) * share)
header = {
    "scene": scene, "frame": int(frame), "samples": samples, "min_samples": samples, "noise_threshold": threshold,
    "mean_samples": float(samples), "seed": seed, "denoise": denoise, "resolution_percent": float(percent),
    "machine": "here", "full_width": int(width), "full_height": int(height), "first_run": 0,
    "region": region, "read_back": "nothing", "seconds": 0.5 + samples / 8, "noise": 1 / samples ** 0.5,
    "noise_shape": "-1 0 1", "trace_seconds": 0.5 + samples / 8,
    **{f"{stage}_seconds": 0.0 for stage in ("prepare", "light", "denoise", "write")},
}
random = np.random.default_rng(int(seed))
write_exr(Path(out), Channels(("R", "G", "B"), random.uniform(0.1, 0.9, (size[1], size[0], 3)).astype("f4"), header))
"""
HANGS = "import time\ntime.sleep(600)\n"
FAILS = "import sys\nprint('the last words', file=sys.stderr)\nsys.exit(7)\n"


def way_of(folder, code=ANSWERS, name="main", *, allow=True, **fields):
    """Return a way that runs some code; it is allowed here unless that is not wanted."""
    from pemlo.core.project.render_ways import RenderWay, Saying
    from pemlo.core.trialrun import allowed

    path = folder / f"{name}.py"
    path.write_text(code)
    command = (
        f"{sys.executable} {path} stairs {{frame}} {{width}} {{height}} {{percent}} {{samples}} {{threshold}} {{region}} "
        "{denoise} {seed} {out}"
    )
    whole = Saying(field="region", value="none", words="whole")
    way = RenderWay(name=name, command=command, sayings=(whole,), **fields)
    if allow:
        allowed.allow(way, folder)
    return way
