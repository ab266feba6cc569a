"""Programs that Pemlo does not know, as renderers: what is measured of them against clocks and sizes from outside.

./dev programs     two minutes; prints the table of docs/method/validation.md

Each is run five times by Pemlo and five times alone, by turns, with a clock around it that Pemlo does not see; the
shortest of each counts, since other work on the computer only makes them longer.
"""

import subprocess
import sys
import tempfile
import time
from pathlib import Path

import OpenImageIO as oiio  # noqa: N813 - its own short name
import skimage.data

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

from pemlo.core.progress import Cancelled, Unwatched
from pemlo.core.project.render_ways import RenderWay
from pemlo.core.project.settings import FrameSettings
from pemlo.core.trialrun.landed import Landed
from pemlo.core.trialrun.output_text import read_marked_line
from pemlo.core.trialrun.session import Place
from pemlo.core.trialrun.template import FrameTask
from render_programs import program

TIMES, SAMPLES = 5, 400
MIB = 2**20
SHELL = '#!/bin/sh\nsleep 2.5\ncp {photo} $1\necho "picture $2 finished after 2500 ms"\n'


class _After:
    """Stops a frame after a while."""

    def __init__(self, seconds: float) -> None:
        self.end = time.monotonic() + seconds

    def step(self, _fraction: float, _text: str) -> None:
        if time.monotonic() > self.end:
            raise Cancelled


def rendered(folder: Path, way: RenderWay, samples: int = SAMPLES) -> Landed:
    task = FrameTask("010", 5, (64, 36), FrameSettings(samples=samples))
    return Place(way, "here", folder / "pictures", folder).render(task, Unwatched())


def against_the_clock(name: str, folder: Path, way: RenderWay, samples: int = SAMPLES) -> None:
    """Print what Pemlo measured of a program, and what a clock around it says."""
    mine, outside, found = [], [], None
    for number in range(TIMES):
        found = rendered(folder, way, samples)
        mine.append(found.measured.seconds)
        out = folder / f"outside{number}{found.run.picture.suffix}"
        words = [str(out) if word == str(found.run.picture) else word for word in found.run.command.words]
        pipe = subprocess.Popen(["cat"], stdin=subprocess.PIPE, stdout=subprocess.DEVNULL)  # noqa: S607 - of the system
        began = time.perf_counter()
        subprocess.run(words, stdout=pipe.stdin, stderr=subprocess.STDOUT, check=False)
        outside.append(time.perf_counter() - began)
        pipe.communicate()
    assert found is not None
    ours, theirs = min(mine), min(outside)
    memory = f"{found.measured.memory_bytes / MIB:.0f} MiB"
    said = found.why or "a trial"
    print(
        f"| {name} | {said} | {ours:.3f} s | {theirs:.3f} s | {100 * (ours / theirs - 1):+.2f} % | {memory} |",
        flush=True,
    )


def stopped(name: str, folder: Path, way: RenderWay) -> None:
    """Print how long a program that hears nothing goes on after a stop."""
    stop, task = _After(1.0), FrameTask("010", 5, (64, 36), FrameSettings(samples=8))
    try:
        Place(way, "here", folder / "pictures", folder).render(task, stop)
    except Cancelled:
        late = 1000 * (time.monotonic() - stop.end)
        print(f"| {name} | stopped, {late:.0f} ms after it was asked | | | | |", flush=True)


def main() -> None:
    folder = Path(tempfile.mkdtemp(prefix="programs-"))
    photo = folder / "photo.exr"
    picture = oiio.ImageBuf((skimage.data.astronaut() / 255.0).astype("f4"))
    oiio.ImageBufAlgo.resize(picture, roi=oiio.ROI(0, 64, 0, 36, 0, 1, 0, 3)).write(str(photo))
    script = folder / "draw.sh"
    script.write_text(SHELL.replace("{photo}", str(photo)))
    script.chmod(0o755)

    def way(name: str, size: int = 0, **fields: object) -> RenderWay:
        fields = {"name": "main", "command": program(folder, name, size), "picture": ".png", **fields}
        return RenderWay.model_validate(fields)

    print("| program | what came of it | measured | clock outside | apart | memory |")
    print("|---|---|---|---|---|---|")
    shell = RenderWay(name="main", command=f"{script} {{out}} {{frame}}")
    against_the_clock("shell script that works 2.5 s", folder, shell)
    own = read_marked_line("finished picture [frame:7]: [seconds:0m 3.11s], [mean_samples:12] rays")
    against_the_clock("own format and words", folder, way("own format", picture=".mine", output=(own,)))
    against_the_clock("works 2.05 s", folder, way("works"))
    tool = Path(sys.executable).with_name("oiiotool")
    command = f"{tool} {photo} --resize 1200x900 --median 9x9 --resize {{width}}x{{height}} -o {{out}} --echo {{frame}}"
    against_the_clock("oiiotool, a real picture", folder, RenderWay(name="main", command=command))
    against_the_clock("prints a gigabyte", folder, way("prints", 10**9))
    against_the_clock("writes slowly", folder, way("slow"))
    against_the_clock("needs 2 GiB", folder, way("holds", 2048 * MIB))
    against_the_clock("crashes at 32 samples", folder, way("crashes"), samples=32)
    found = rendered(folder, way("forks"))
    print(
        f"| leaves its parent, which ends at once, and works 0.8 s | a trial | {found.measured.seconds:.3f} s | | | |"
    )
    found = rendered(folder, way("endless", time_limit_s=1.5))
    limit = found.trial is not None and found.trial.only_says_longer
    said = "“takes longer”" if limit else found.why
    print(f"| never ends, limit 1.5 s | {said} | {found.measured.seconds:.3f} s | | | |")
    stopped("ignores a stop, with three children that left it", folder, way("deaf"))


if __name__ == "__main__":
    main()
