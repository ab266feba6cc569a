"""Speed of Hand-over: checks, edits, the case, review movies. The last tables of `./dev bench`."""

import sys
import tempfile
import time
from dataclasses import replace
from datetime import UTC, datetime
from fractions import Fraction
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

import av
import numpy as np
import OpenImageIO as oiio  # noqa: N813 - its own short name

from film import make_project, make_shot
from pemlo.core.editing.changed_edit import edit_change
from pemlo.core.editing.read_edit import edit_from_cmx
from pemlo.core.film.film import Film
from pemlo.core.forecast.run_effect import EXACT_FRAMES
from pemlo.core.forecast.verdict import forecast
from pemlo.core.preflight.all_checks import run_checks
from pemlo.core.preflight.check_context import plan_row, situation_of
from pemlo.core.preflight.disk_facts import folder_facts
from pemlo.demo import DEMO_FILE, demo_project
from pemlo.handover.case_facts import case_facts
from pemlo.handover.movie.codecs import codec_for
from pemlo.handover.movie.make_movie import make_movie
from pemlo.handover.movie.order import MovieWish, movie_order
from pemlo.handover.movie.pictures import MoviePictures
from pemlo.handover.pages import case_page
from pemlo.handover.paper import pdf_of
from timing import least_seconds

FRAMES, WIDTH, HEIGHT = 100, 1920, 1080


def completed_frames(folder: Path) -> None:
    """Write frames with noise as half-float EXR."""
    dice = np.random.default_rng(0)
    ramp = np.linspace(0, 0.8, WIDTH, dtype=np.float32)[None, :, None] * np.ones((HEIGHT, 1, 3), np.float32)
    for number in range(FRAMES):
        picture = np.roll(ramp, 8 * number, axis=1) + dice.normal(0, 0.01, ramp.shape).astype(np.float32)
        image = oiio.ImageBuf(np.ascontiguousarray(np.maximum(picture, 0)))
        assert image.write(str(folder / f"010.{number + 1:04}.exr"), "half")


def checks() -> None:
    """All checks of films of more and more shots, against the shortest."""
    print("all checks of a launch                  ms   a shot, against 20 shots")
    base = 0.0
    for count in (20, 200, 2000):
        project = make_project(tuple(make_shot(f"{k:04d}", 100) for k in range(count)))
        rows = tuple(
            plan_row(project, shot).replace(pattern="{shot}.{frame:04}.exr", folder=f"r/{shot.name}")
            for shot in project.shots
        )
        film = project.replace(launch=rows)
        here = situation_of(film)
        here = replace(here, folders=folder_facts(here, Path("/nowhere")))
        took = least_seconds(lambda here=here: run_checks(here))  # type: ignore[misc]
        base = base or took / count
        print(f"  {count:5d} shots of 100 frames      {1000 * took:10.1f}   {took / count / base:.2f}")


def edits() -> None:
    """An edit list of 500 shots, against the library alone."""
    import opentimelineio as otio  # noqa: PLC0415 - measured without its load

    film = otio.schema.Timeline("reel")
    track = otio.schema.Track("V1", kind=otio.schema.TrackKind.Video)
    for number in range(500):
        length = otio.opentime.RationalTime(48, 24)
        source = otio.opentime.TimeRange(otio.opentime.RationalTime(1, 24), length)
        track.append(otio.schema.Clip(f"{number:03d}", source_range=source))
    film.tracks.append(track)
    text = otio.adapters.write_to_string(film, "cmx_3600", rate=24)
    plain_s = least_seconds(lambda: otio.adapters.read_from_string(text, "cmx_3600", rate=24))
    ours = least_seconds(lambda: edit_from_cmx(text, 24))
    project = make_project(tuple(make_shot(f"{k:03d}", 40) for k in range(500)))
    edit = edit_from_cmx(text, 24)
    held = least_seconds(lambda: edit_change(project, edit))
    print("an edit of 500 shots                    ms   against the library alone")
    print(f"  read by the library               {1000 * plain_s:6.0f}   1.00")
    print(f"  looked through line by line, read {1000 * ours:6.0f}   {ours / plain_s:.2f}")
    print(f"  held against the film             {1000 * held:6.0f}   {held / plain_s:.2f}")


def case() -> None:
    """The case of the demo, against its forecast."""
    film = Film(demo_project(), DEMO_FILE.parent)
    known = film.known
    plain_s = least_seconds(lambda: forecast(film.project, *known, most_frames=EXACT_FRAMES))
    took = least_seconds(lambda: case_facts(film, datetime.now(UTC)), 1)
    facts = case_facts(film, datetime.now(UTC))
    page = least_seconds(lambda: case_page(facts))
    paper = least_seconds(lambda: pdf_of(case_page(facts)))
    print("the case of the demo                     s   against its forecast alone")
    print(f"  forecast                          {plain_s:6.2f}   1.00")
    print(f"  facts: pictures, what more buys   {took:6.2f}   {took / plain_s:.2f}")
    print(f"  page, {len(case_page(facts)) / 1024:.0f} KiB                      {page:6.2f}   {page / plain_s:.2f}")
    print(f"  paper                             {paper:6.2f}   {paper / plain_s:.2f}")


def main() -> None:
    checks()
    edits()
    case()
    movie()


def movie() -> None:
    """100 frames of 1920×1080 px beside plain encoding."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        completed_frames(folder)
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
        print(f"  plain PyAV encoding of the levels   {encoding:6.1f} s   1.00")
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
