"""Speed of review movies: 100 frames of 1920×1080 px beside plain encoding. The last table of `./dev bench`."""

import sys
import tempfile
import time
from fractions import Fraction
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

import av
import numpy as np
import OpenImageIO as oiio  # noqa: N813 - its own short name

from film import make_project, make_shot
from pemlo.core.handover.movie.codecs import codec_for
from pemlo.core.handover.movie.make_movie import make_movie
from pemlo.core.handover.movie.order import MovieWish, movie_order
from pemlo.core.handover.movie.pictures import MoviePictures

FRAMES, WIDTH, HEIGHT = 100, 1920, 1080


def frames_in(folder: Path) -> None:
    """Write frames with noise as half-float EXR."""
    dice = np.random.default_rng(0)
    ramp = np.linspace(0, 0.8, WIDTH, dtype=np.float32)[None, :, None] * np.ones((HEIGHT, 1, 3), np.float32)
    for number in range(FRAMES):
        picture = np.roll(ramp, 8 * number, axis=1) + dice.normal(0, 0.01, ramp.shape).astype(np.float32)
        image = oiio.ImageBuf(np.ascontiguousarray(np.maximum(picture, 0)))
        assert image.write(str(folder / f"010.{number + 1:04}.exr"), "half")


def main() -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        frames_in(folder)
        project = make_project((make_shot("010", FRAMES),))
        path = folder / "m.mp4"
        order = movie_order(project, folder, MovieWish(place="{shot}.{frame:04}.exr"), path)
        reader = MoviePictures(order.size, order.display)
        began = time.perf_counter()
        codes = [reader.codes(shown) for shown in order.shown]
        reading = time.perf_counter() - began
        began = time.perf_counter()
        plain(codes, folder / "plain.mp4")
        encoding = time.perf_counter() - began
        began = time.perf_counter()
        make_movie(order, path)
        whole = time.perf_counter() - began
        print(f"review movie, {FRAMES} frames of {WIDTH}×{HEIGHT} px, H.264")
        print(f"  plain PyAV encoding of the codes   {encoding:6.1f} s   1.00")
        print(f"  reading, view                      {reading:6.1f} s   {reading / encoding:.2f}")
        print(f"  whole: reading, view, words, file  {whole:6.1f} s   {whole / encoding:.2f}")


def plain(codes: list[np.ndarray], path: Path) -> None:
    """Encode pictures with the same encoder and nothing else."""
    codec = codec_for("", ".mp4")
    with av.open(str(path), "w") as container:
        stream = container.add_stream(codec.encoder, rate=Fraction(24), options=dict(codec.options))
        stream.width, stream.height, stream.pix_fmt = WIDTH, HEIGHT, codec.pixels
        for picture in codes:
            container.mux(stream.encode(av.VideoFrame.from_ndarray(picture, format="rgb24")))
        container.mux(stream.encode(None))


if __name__ == "__main__":
    main()
