"""Reads pictures in the background and makes them ready to be painted; keeps those that were read last. GUI thread."""

from collections import OrderedDict
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import TYPE_CHECKING, Literal

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage

from pemlo.app.jobs import Jobs
from pemlo.core.files.written import when_written
from pemlo.core.progress import Monitor
from pemlo.gui.judge.viewer.painting import Sizes

if TYPE_CHECKING:
    from pemlo.core.files.loading import Loaded
    from pemlo.core.files.picture_file import ReadOptions
    from pemlo.core.pixels.display import Display
    from pemlo.core.pixels.screen import Pixels

PICTURES = "judge pictures"
Key = tuple[object, ...]
Side = Literal["left", "right"]
MOST_KEPT_BYTES = 1_500_000_000
MOST_TIMES = 64


@dataclass(frozen=True)
class ViewRequest:
    """What is to be shown: two files at most, and how.

    Attributes
    ----------
    left, right : path, optional
    stops : float
        Exposure.
    part : str
        ``colour``, or one part of it.
    layer : str
        Layer of the files, empty for their colour.
    times : int
        By how much the difference is amplified.
    signed : bool
    view : tuple of str, optional
        Configuration, display and view; sRGB without.
    linear : bool, optional
        Whether files hold light; None to tell by their format.
    """

    left: Path | None = None
    right: Path | None = None
    stops: float = 0.0
    part: str = "colour"
    layer: str = ""
    times: int = 8
    signed: bool = True
    view: tuple[str, str, str] | None = None
    linear: bool | None = None

    def display(self) -> "Display":
        """Return the display that pictures are shown and measured on."""
        from pemlo.core.pixels.display import Srgb, View  # noqa: PLC0415 - heavy to load

        return Srgb(self.stops) if self.view is None else View(*self.view, stops=self.stops)

    def reading(self) -> "ReadOptions":
        """Return how files are read to be measured: their colour."""
        from pemlo.core.files.picture_file import ReadOptions  # noqa: PLC0415 - heavy to load

        return ReadOptions(scene_linear=self.linear)


@dataclass(frozen=True)
class Ready:
    """Pictures that can be painted, and what they were made of; `keys` say of which state of their files."""

    request: ViewRequest
    keys: dict[str, Key]
    loaded: dict[str, "Loaded"]
    pixels: dict[str, tuple["Pixels", ...]]


@dataclass
class _Kept:
    """Pictures that were read, the oldest first, up to a number of bytes."""

    pictures: "OrderedDict[Key, Loaded]" = field(default_factory=OrderedDict)

    def put(self, key: Key, loaded: "Loaded") -> None:
        self.pictures[key] = loaded
        self.pictures.move_to_end(key)
        while (
            len(self.pictures) > 2
            and sum(picture.colour.nbytes for picture in self.pictures.values()) > MOST_KEPT_BYTES
        ):
            self.pictures.popitem(last=False)


class PictureReader(QObject):
    """Makes wishes come true in the background, the newest first.

    Signals
    -------
    ready(dict of Sizes)
        New images to paint; what they are of is in `now`.
    """

    ready = Signal(object)

    def __init__(self, jobs: Jobs) -> None:
        super().__init__()
        self._jobs = jobs
        self._kept = _Kept()
        self.request = ViewRequest()
        self.now: Ready | None = None

    def ask(self, **changes: object) -> None:
        """Change what is wished for."""
        self.request = replace(self.request, **changes)  # type: ignore[arg-type]
        request, kept = self.request, dict(self._kept.pictures)
        if request.left is None and request.right is None:
            self._jobs.cancel(PICTURES)
            self.now = None
            self.ready.emit({})
            return
        self._jobs.submit(
            PICTURES, "Reading pictures", lambda monitor: self._work(request, kept, monitor), self._on_done
        )

    def _work(self, request: ViewRequest, kept: "dict[Key, Loaded]", monitor: Monitor) -> Ready:
        from pemlo.core.files.loading import load, size_of  # noqa: PLC0415 - heavy to load
        from pemlo.core.files.picture_file import ReadOptions  # noqa: PLC0415 - as above

        paths = {side: path for side, path in (("left", request.left), ("right", request.right)) if path is not None}
        # Pictures of other sizes are brought to the largest: that of the delivery, or nearest to it.
        size = max(map(size_of, paths.values()))
        loaded: dict[str, Loaded] = {}
        keys: dict[str, Key] = {}
        for side, path in paths.items():
            keys[side] = (path, when_written(path), request.layer, request.linear, size)
            found = kept.get(keys[side])
            loaded[side] = found or load(path, ReadOptions(request.layer, request.linear), size, monitor)
        return Ready(request, keys, loaded, self._pixels(request, loaded, monitor))

    def _pixels(
        self, request: ViewRequest, loaded: "dict[str, Loaded]", monitor: Monitor
    ) -> "dict[str, tuple[Pixels, ...]]":
        from pemlo.core.pixels.screen import difference, reduced, shown, shown_data  # noqa: PLC0415 - heavy to load

        display = request.display()
        found = {}
        for side, picture in loaded.items():
            monitor.step(0.9, "Showing pictures")
            if picture.is_light:
                found[side] = shown(picture.colour, display, request.part)  # type: ignore[arg-type]
            else:
                found[side] = shown_data(picture.colour)
        if len(loaded) == 2:
            found["difference"] = difference(
                loaded["left"].colour,
                loaded["right"].colour,
                display,
                request.times,
                signed=request.signed,
            )
        return {name: (whole, half := reduced(whole), reduced(half)) for name, whole in found.items()}

    def _on_done(self, ready: Ready) -> None:
        for side, picture in ready.loaded.items():
            self._kept.put(ready.keys[side], picture)
        self.now = ready
        self.ready.emit({name: sizes_of(pixels) for name, pixels in ready.pixels.items()})

    @property
    def size(self) -> tuple[int, int] | None:
        """Width and height at which pictures are shown, px."""
        return None if self.now is None else next(iter(self.now.loaded.values())).size

    def values_at(self, at: tuple[int, int]) -> dict[str, tuple[tuple[float, ...], tuple[float, ...]]]:
        """Return what the pictures have at a pixel: light, and display codes under the wished exposure."""
        if self.now is None:
            return {}
        found = {}
        for side, picture in self.now.loaded.items():
            light = picture.colour[at[1] : at[1] + 1, at[0] : at[0] + 1]
            codes = self.now.request.display().codes(light)
            found[side] = tuple(map(float, light[0, 0])), tuple(map(float, codes[0, 0]))
        return found


def sizes_of(pixels: "tuple[Pixels, ...]") -> Sizes:
    """Return images that paint from the memory of pixels."""
    images = []
    for one in pixels:
        height, width = one.shape
        image = QImage(one.data, width, height, 4 * width, QImage.Format.Format_RGB32)
        image.pixels = one  # type: ignore[attr-defined]  # the image paints from its memory
        images.append(image)
    return Sizes(tuple(images))
