"""Throw damaged picture files at the readers, in a process of their own that may die: none may do worse than an error.

./dev fuzz [seconds]    prints how many files were read, refused, and what went wrong (60 s unless told)
"""

import random
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
import OpenImageIO as oiio  # noqa: N813 - its own short name

from pemlo.core.errors import PemloError
from pemlo.core.files.picture_file import PictureFile
from pemlo.core.measure.frame import MeasureRequest, measure

KINDS = (("exr", "half"), ("exr", "float"), ("png", "uint8"), ("png", "uint16"), ("tif", "uint16"), ("jpg", "uint8"))
LARGEST = 1_000_000


def good_files(folder: Path) -> list[Path]:
    pixels = np.random.default_rng(1).random((37, 53, 3)).astype(np.float32)
    made = []
    for ending, kind in KINDS:
        path = folder / f"good-{kind}.{ending}"
        spec = oiio.ImageSpec(53, 37, 3, kind)
        out = oiio.ImageOutput.create(str(path))
        out.open(str(path), spec)
        out.write_image(pixels)
        out.close()
        made.append(path)
    return made


def damage(data: bytes, dice: random.Random) -> bytes:
    """Change, cut out or double some bytes."""
    bad = bytearray(data)
    for _ in range(dice.randint(1, 10)):
        at = dice.randrange(len(bad))
        way = dice.randrange(4)
        if way == 0:
            bad[at] = dice.randrange(256)
        elif way == 1:
            bad[at : at + 4] = dice.choice([b"\xff\xff\xff\x7f", b"\x00\x00\x00\x00", b"\xff\xff\xff\xff"])
        elif way == 2:
            del bad[at : at + dice.randint(1, 40)]
        else:
            bad[at:at] = bad[at : at + dice.randint(1, 40)]
        if not bad:
            return b""
    return bytes(bad)


def read_one(path: Path) -> str:
    """Read and measure a file; return what became of it."""
    try:
        with PictureFile(path) as picture:
            if picture.size[0] * picture.size[1] > LARGEST:
                return "large"
            measure(MeasureRequest(picture), threads=1)
    except PemloError:
        return "refused"
    except Exception as error:  # noqa: BLE001 - this is what is looked for
        return f"wrong: {error!r}"
    return "read"


def child(folder: Path) -> None:
    """Read the files whose names come on standard input, and answer each with a line."""
    for line in sys.stdin:
        print(read_one(folder / line.strip()), flush=True)


def main(seconds: float, at_least: int = 0, seed: int = 20310424) -> int:
    """Damage files for some seconds, and so many at least, however slow the machine is.

    Returns how many killed the reader or ended in anything but an error of ours.
    """
    dice, counts, wrong = random.Random(seed), {"read": 0, "refused": 0, "large": 0}, 0  # noqa: S311 - no secret
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        good = [(path, path.read_bytes()) for path in good_files(folder)]
        reader = Reader(folder)
        end = time.monotonic() + seconds
        while time.monotonic() < end or sum(counts.values()) + wrong < at_least:
            path, data = dice.choice(good)
            number = sum(counts.values()) + wrong
            bad = folder / f"bad-{number % 50}{path.suffix}"
            bad.write_bytes(damage(data, dice))
            said = reader.ask(bad.name)
            if said in counts:
                counts[said] += 1
                continue
            wrong += 1
            kept = Path(tempfile.gettempdir()) / f"pemlo-fuzz-{number}{path.suffix}"
            kept.write_bytes(bad.read_bytes())
            print(f"{said or 'the reader died'}; the file is kept as {kept.name}")
            reader.close()
            reader = Reader(folder)
        reader.close()
    total = sum(counts.values()) + wrong
    print(
        f"{total} damaged files: {counts['read']} read, {counts['refused']} refused, {counts['large']} too large to be"
    )
    print(f"measured here, {wrong} went wrong")
    return wrong


class Reader:
    """The process that reads."""

    def __init__(self, folder: Path) -> None:
        self._process = subprocess.Popen(
            [sys.executable, __file__, "child", str(folder)],
            stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True,
        )  # fmt: skip

    def ask(self, name: str) -> str:
        """Return what became of a file; empty if the process died."""
        process = self._process
        assert process.stdin is not None
        assert process.stdout is not None
        process.stdin.write(name + "\n")
        process.stdin.flush()
        return process.stdout.readline().strip()

    def close(self) -> None:
        self._process.communicate()


if __name__ == "__main__":
    if sys.argv[1:2] == ["child"]:
        child(Path(sys.argv[2]))
    else:
        sys.exit(main(float(sys.argv[1]) if len(sys.argv) > 1 else 60.0) > 0)
