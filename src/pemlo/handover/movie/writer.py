"""Writes movies through PyAV: pictures of display codes in, a file out that is whole or not there. Files."""

import secrets
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np

from pemlo.core.errors import FileError, InputError
from pemlo.core.persistence.whole_files import why_not_written
from pemlo.handover.movie.burn_in import U8
from pemlo.handover.movie.codecs import Codec

# Code points of ITU-T H.273 (from memory): BT.709 primaries and matrix, the curve of IEC 61966-2-1, video range.
_BT709, _SRGB, _UNSPECIFIED, _VIDEO_RANGE = 1, 13, 2, 1
SOUND_RATE = 48_000


def exact_fraction(fps: float) -> Fraction:
    """Return a rate as frames over seconds.

    Examples
    --------
    >>> exact_fraction(30000 / 1001), exact_fraction(24.0)
    (Fraction(30000, 1001), Fraction(24, 1))
    """
    return Fraction(fps).limit_denominator(1001)


class MovieWriter:
    """Takes pictures one after another. Made by `writing`."""

    def __init__(self, container: Any, codec: Codec, size: tuple[int, int], fps: float, *, srgb: bool) -> None:  # noqa: ANN401 - the library has no types that hold here
        self._container, self._codec, self._rate, self.frames = container, codec, exact_fraction(fps), 0
        self._stream = container.add_stream(codec.encoder, rate=self._rate, options=dict(codec.options))
        self._stream.width, self._stream.height = size
        self._stream.pix_fmt = codec.pixels
        context = self._stream.codec_context
        context.color_range, context.colorspace, context.color_primaries = _VIDEO_RANGE, _BT709, _BT709
        context.color_trc = _SRGB if srgb else _UNSPECIFIED
        context.thread_type = "AUTO"
        self._sound: Any = None

    def add_sound(self) -> None:
        """Make room for sound; before the first picture."""
        self._sound = self._container.add_stream(self._codec.sound, rate=SOUND_RATE, layout="stereo")

    def put(self, picture: U8) -> None:
        """Write a picture, (H, W, 3) display codes."""
        import av  # noqa: PLC0415 - heavy

        frame = av.VideoFrame.from_ndarray(picture, format="rgb24")
        frame = frame.reformat(
            format=self._codec.pixels, src_colorspace=_BT709, dst_colorspace=_BT709, src_color_range=2,
            dst_color_range=_VIDEO_RANGE, interpolation="AREA",
        )  # fmt: skip
        frame.pts, frame.time_base = self.frames, 1 / self._rate
        self.frames += 1
        self._mux(self._stream, frame)

    def put_sound(self, path: Path) -> None:
        """Write sound beneath all pictures: cut where they end, silent where it does."""
        for frame in sound_of(path, float(self.frames / self._rate)):
            self._mux(self._sound, frame)

    def finish(self) -> None:
        """Write what is still under way."""
        self._mux(self._stream, None)
        if self._sound is not None:
            self._mux(self._sound, None)

    def _mux(self, stream: Any, frame: Any) -> None:  # noqa: ANN401 - as above
        for packet in stream.encode(frame):
            self._container.mux(packet)


@contextmanager
def writing(
    path: Path, codec: Codec, size: tuple[int, int], fps: float, *, srgb: bool = True, sound: bool = False
) -> Iterator[MovieWriter]:
    """Write a movie to a file beside its name, and give it that name when it is whole.

    Whatever goes wrong, or is stopped, leaves nothing behind, and what was there before as it was.

    Raises
    ------
    FileError
        If it cannot be written, such as on a full disk.
    """
    import av  # noqa: PLC0415 - heavy

    beside = path.with_name(f".pemlo-{secrets.token_hex(8)}{codec.ending}")
    try:
        with av.open(str(beside), "w", format=codec.container) as container:
            writer = MovieWriter(container, codec, size, fps, srgb=srgb)
            if sound:
                writer.add_sound()
            yield writer
            writer.finish()
        beside.replace(path)
    except OSError as error:
        hint = "Check that the folder exists, may be written to and has room."
        raise FileError(f"{path.name} cannot be written: {why_not_written(error)}.", hint) from error
    finally:
        with suppress(OSError):
            beside.unlink(missing_ok=True)


def check_sound(path: Path) -> None:
    """Refuse a file that holds no sound.

    Raises
    ------
    InputError
        If it is none.
    FileError
        If it cannot be read.
    """
    import av  # noqa: PLC0415 - heavy

    hint = "Choose a WAV file."
    try:
        with av.open(str(path)) as file:
            if not file.streams.audio:
                raise InputError(f"{path.name} holds no sound.", hint)
    except OSError as error:
        raise FileError(f"{path.name} cannot be read as sound: {error.strerror or error}.", hint) from error
    except ValueError as error:
        raise FileError(f"{path.name} is no sound file.", hint) from error


def sound_of(path: Path, seconds: float) -> Iterator[Any]:
    """Yield sound as stereo frames, as long as is wanted: cut, or silent at the end."""
    import av  # noqa: PLC0415 - heavy

    left = round(seconds * SOUND_RATE)
    at = 0
    resampler = av.AudioResampler(format="fltp", layout="stereo", rate=SOUND_RATE)

    def made(values: Any) -> Any:  # noqa: ANN401 - as above
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(values, np.float32), format="fltp", layout="stereo")
        frame.sample_rate, frame.pts, frame.time_base = SOUND_RATE, at, Fraction(1, SOUND_RATE)
        return frame

    with av.open(str(path)) as file:
        for decoded in file.decode(audio=0):
            for frame in resampler.resample(decoded):
                values = frame.to_ndarray()[:, :left]
                if values.shape[1]:
                    yield made(values)
                    at, left = at + values.shape[1], left - values.shape[1]
            if not left:
                return
    while left:
        count = min(left, SOUND_RATE)
        yield made(np.zeros((2, count), np.float32))
        at, left = at + count, left - count
