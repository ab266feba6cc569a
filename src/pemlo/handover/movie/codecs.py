"""Codecs of movies, as the package at hand offers them. Loads it only when asked."""

from dataclasses import dataclass

from pemlo.core.errors import InputError


@dataclass(frozen=True)
class Codec:
    """A codec: what people call it, its encoder, the ending of its files, how pixels and sound are kept, options."""

    name: str
    encoder: str
    ending: str
    container: str
    pixels: str
    sound: str
    options: tuple[tuple[str, str], ...]


CODECS = (
    Codec("H.264", "libx264", ".mp4", "mp4", "yuv420p", "aac", (("crf", "17"), ("preset", "medium"))),
    Codec("VP9", "libvpx-vp9", ".webm", "webm", "yuv420p", "libopus",
          (("crf", "24"), ("b", "0"), ("row-mt", "1"), ("cpu-used", "4"))),
    Codec("ProRes", "prores_ks", ".mov", "mov", "yuv422p10le", "pcm_s16le", (("profile", "3"),)),
)  # fmt: skip


def offered() -> tuple[Codec, ...]:
    """Return the codecs that can be written here."""
    import av  # noqa: PLC0415 - heavy

    return tuple(codec for codec in CODECS if codec.encoder in av.codecs_available)


def codec_for(name: str, ending: str) -> Codec:
    """Return a codec by its name, or by the ending of a file.

    Raises
    ------
    InputError
        If there is none.
    """
    existing = offered()
    wanted = _plain(name)
    found = next((codec for codec in existing if name and _plain(codec.name) == wanted), None)
    if name and found is None:
        raise InputError(f"There is no codec {name} here.", f"There are {', '.join(codec.name for codec in existing)}.")
    found = found or next((codec for codec in existing if codec.ending == ending.lower()), None)
    if found is None:
        raise InputError(
            f"A movie does not end in “{ending}”.", f"Use {', '.join(codec.ending for codec in existing)}."
        )
    if ending.lower() != found.ending:
        raise InputError(f"{found.name} is written into {found.ending} and not into “{ending}”.", "Name the file so.")
    return found


def _plain(name: str) -> str:
    return name.lower().replace(".", "")
