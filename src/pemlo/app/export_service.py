"""Makes what is handed over, in the background: pages to look at, files in a folder, movies. GUI thread."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject

from pemlo.app.document import Document
from pemlo.app.film_state import FilmState
from pemlo.app.jobs import Jobs
from pemlo.app.picture_places import base_folder
from pemlo.core.errors import PemloError
from pemlo.core.progress import Monitor

if TYPE_CHECKING:
    from pemlo.core.preflight.finding import Finding
    from pemlo.core.project.project import Project
    from pemlo.handover.movie.codecs import Codec
    from pemlo.handover.movie.make_movie import MovieMade, MovieOrder
    from pemlo.handover.movie.order import MovieWish
    from pemlo.handover.outputs import HandedFilm
    from pemlo.handover.paper import U8

PREVIEW, WRITING, MOVIE, PACKING = "hand-over preview", "hand-over", "review movie", "whole project"
PRINTING = "pages for a printer"
MOVIE_LOOK, CODECS = "look at a movie", "codecs"
Written = tuple[tuple[Path, ...], tuple[str, ...]]


@dataclass(frozen=True)
class MovieLook:
    """One picture of a movie, of which movie, and which of its pictures; or why there is none."""

    picture: "U8 | None" = None
    order: "MovieOrder | None" = None
    number: int = 0
    wrong: str = ""


class ExportService(QObject):
    """What can be asked for; each answer comes when it is made, of the film as it was when it was asked for."""

    def __init__(self, document: Document, jobs: Jobs, state: FilmState) -> None:
        super().__init__()
        self._document, self._jobs, self._state = document, jobs, state
        self.template = ""
        self.findings: tuple[Finding, ...] = ()
        document.replaced.connect(self._on_replaced)

    def _on_replaced(self) -> None:
        self.findings = ()
        self._jobs.cancel(PREVIEW)

    def film(self) -> "HandedFilm":
        """Return the film as it stands, to be handed over; what is not known of it yet is found out with that."""
        from pemlo.handover.outputs import HandedFilm  # noqa: PLC0415 - heavy to load

        film = self._state.film.with_pictures_seen()
        return HandedFilm(film, datetime.now(UTC), self.template, self.findings, self._state.live_forecast)

    def preview_pages(self, key: str, done: "Callable[[tuple[U8, ...], bytes], None]") -> None:
        """Make a page, and hand over its paper as pictures with its file."""
        film = self.film()

        def work(monitor: Monitor) -> "tuple[tuple[U8, ...], bytes]":
            from pemlo.handover.outputs import BY_KEY  # noqa: PLC0415 - heavy to load
            from pemlo.handover.paper import pages_of  # noqa: PLC0415 - as above

            monitor.step(0.0, f"Making {BY_KEY[key].name.lower()}")
            data = BY_KEY[key].make(film, monitor)
            return pages_of(data), data

        self._jobs.submit(
            PREVIEW, "Making a page", work, lambda found: done(*found), again=lambda: self.preview_pages(key, done)
        )

    def paper(self, data: bytes, dots_an_inch: float, done: "Callable[[tuple[U8, ...]], None]") -> None:
        """Make pictures of the pages of a PDF, as fine as a printer needs them."""

        def work(monitor: Monitor) -> "tuple[U8, ...]":
            from pemlo.handover.paper import pages_of  # noqa: PLC0415 - heavy to load

            monitor.step(0.0, "Making pages for the printer")
            return pages_of(data, dots_an_inch)

        self._jobs.submit(PRINTING, "Making pages for the printer", work, done)

    def preview_text(self, key: str, done: Callable[[str], None]) -> None:
        """Make a file of text, and hand it over."""
        film = self.film()

        def work(monitor: Monitor) -> str:
            from pemlo.handover.outputs import BY_KEY  # noqa: PLC0415 - heavy to load

            return BY_KEY[key].make(film, monitor).decode()

        self._jobs.submit(PREVIEW, f"Making {key}", work, done, again=lambda: self.preview_text(key, done))

    def write(self, keys: Sequence[str], folder: Path, done: Callable[[Written], None]) -> None:
        """Write several into a folder."""
        film = self.film()

        def work(monitor: Monitor) -> Written:
            from pemlo.handover.outputs import write_outputs  # noqa: PLC0415 - heavy to load

            return write_outputs(keys, film, folder, monitor)

        self._jobs.submit(WRITING, "Handing over", work, done, again=lambda: self.write(keys, folder, done))

    def movie(self, wish: "MovieWish", path: Path, done: "Callable[[MovieMade], None]") -> None:
        """Write a review movie."""
        project, root = self._document.project, base_folder(self._document.path)

        def work(monitor: Monitor) -> "MovieMade":
            from pemlo.handover.movie.make_movie import make_movie  # noqa: PLC0415 - heavy to load
            from pemlo.handover.movie.order import movie_order  # noqa: PLC0415 - as above

            monitor.step(0.0, "Looking for frames")
            return make_movie(movie_order(project, root, wish, path), path, monitor)

        self._jobs.submit(MOVIE, f"Writing {path.name}", work, done, again=lambda: self.movie(wish, path, done))

    def look_at_movie(self, wish: "MovieWish", ending: str, number: int, done: "Callable[[MovieLook], None]") -> None:
        """Make one picture of a movie, or say why there is none."""
        project, root = self._document.project, base_folder(self._document.path)

        def work(monitor: Monitor) -> MovieLook:
            from pemlo.handover.movie.make_movie import movie_picture  # noqa: PLC0415 - heavy to load
            from pemlo.handover.movie.order import movie_order  # noqa: PLC0415 - as above

            monitor.step(0.0, "Looking for frames")
            try:
                order = movie_order(project, root, wish, Path(f"review{ending}"))
                at = min(number, len(order.shown) - 1)
                return MovieLook(movie_picture(order, at), order, at)
            except PemloError as error:
                return MovieLook(wrong=str(error))

        self._jobs.submit(MOVIE_LOOK, "Making a picture of the movie", work, done, waited_for=True)

    def codecs(self, done: "Callable[[tuple[Codec, ...]], None]") -> None:
        """Say in which codecs movies can be written: the library is loaded for that."""

        def work(_monitor: Monitor) -> "tuple[Codec, ...]":
            from pemlo.handover.movie.codecs import offered  # noqa: PLC0415 - as above

            return offered()

        self._jobs.submit(CODECS, "Loading what writes movies", work, done, waited_for=True)

    def stop_looking(self) -> None:
        """Make no picture of a movie any more: nobody looks."""
        self._jobs.cancel(MOVIE_LOOK)

    def weigh(self, done: Callable[[float, int, int, int], None]) -> None:
        """Say what the whole project weighs: MiB, how many files, pictures that are not there, and what is none."""
        project, root = self._document.project, base_folder(self._document.path)

        def work(_monitor: Monitor) -> tuple[float, int, int, int]:
            from pemlo.core.units import MIB  # noqa: PLC0415 - with it
            from pemlo.handover.whole_project import pack_of  # noqa: PLC0415 - only where it is asked for

            pack = pack_of(project, root)
            return pack.bytes / MIB, len(pack.files), len(pack.missing), len(pack.left_aside)

        self._jobs.submit(PACKING, "Weighing the project", work, lambda found: done(*found))

    def pack(self, folder: Path, done: Callable[[Path], None]) -> None:
        """Write the whole project as a folder."""
        project, root = self._document.project, base_folder(self._document.path)
        name = self._document.path.name if self._document.path else f"{_file_name(project)}.pemlo"

        def work(monitor: Monitor) -> Path:
            from pemlo.handover.whole_project import pack_of, write_pack  # noqa: PLC0415 - as above

            return write_pack(pack_of(project, root), folder, name, monitor)

        self._jobs.submit(PACKING, "Packing the project", work, done, again=lambda: self.pack(folder, done))


def _file_name(project: "Project") -> str:
    return "".join(letter if letter.isalnum() or letter in " -_" else "_" for letter in project.title).strip() or "film"
