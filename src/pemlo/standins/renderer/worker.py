"""The renderer in a process of its own: reads one request a line from standard input, answers in lines of JSON.

A request is ``{"settings": {…}, "picture": path, "small": path, "machine": name, "kept": folder or null, "unfinished":
path}``; its settings are those of `RenderSettings`, but that its switches are named. A frame whose unfinished file is
there goes on from it, with its seed. Answers are ``{"fraction", "text"}`` as it goes
on, ``{"refined": path}`` when the small picture has come nearer, and at the end ``{"done": header}`` or ``{"failed":
message, "hint": hint}``.
"""

import json
import sys
import time
from contextlib import suppress
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any, TextIO

from pemlo.core.errors import PemloError

if TYPE_CHECKING:
    from pemlo.standins.renderer.clock import Clock
    from pemlo.standins.renderer.film import Sums
    from pemlo.standins.renderer.settings import RenderSettings

_TELL_EVERY_S = 0.1
_REFINE_EVERY_S = 0.5
_TINY = (16, 9)


def main(requests: TextIO, answers: TextIO) -> None:
    """Serve requests until there are no more."""
    warm = False
    for line in requests:
        if not line.strip():
            continue
        try:
            header = _serve(json.loads(line), answers, warm=warm)
            _answer(answers, {"done": header})
        except PemloError as error:
            _answer(answers, {"failed": error.message, "hint": error.hint})
        else:
            warm = True


def _serve(request: dict[str, Any], answers: TextIO, *, warm: bool) -> dict[str, object]:
    from pemlo.core.files.small import write_small  # noqa: PLC0415 - heavy to load; the process is there first
    from pemlo.standins.renderer.film import Picture  # noqa: PLC0415 - as above
    from pemlo.standins.renderer.output import write_picture  # noqa: PLC0415 - as above
    from pemlo.standins.renderer.render import render  # noqa: PLC0415 - as above
    from pemlo.standins.renderer.scenes import find_scene  # noqa: PLC0415 - as above
    from pemlo.standins.renderer.settings import RenderSettings, settings_of  # noqa: PLC0415 - as above

    scene = find_scene(request["settings"]["scene"])
    settings = settings_of({**request["settings"], "scene": scene.name})
    small, kept = Path(request["small"]), request.get("kept")
    refined_at = time.monotonic()

    def refine(picture: Picture) -> None:
        nonlocal refined_at
        if time.monotonic() - refined_at > _REFINE_EVERY_S:
            write_small(picture.colour, small)
            _answer(answers, {"refined": str(small)})
            refined_at = time.monotonic()

    if not warm:
        # The first run of a process loads and compiles: it is a tiny one, so that no trial carries those seconds.
        _answer(answers, {"fraction": 0.0, "text": "Warming up the renderer, which takes a minute the first time"})
        render(scene, RenderSettings(scene.name, settings.frame, *_TINY, samples=1, denoise=settings.denoise))
    unfinished = Path(request["unfinished"])
    settings, film, before = _gone_on_from(unfinished, settings)
    done = render(
        scene, settings, _Teller(answers), Path(kept) if kept else None, refine,
        film=film, unfinished=unfinished, before=before,
    )  # fmt: skip
    unfinished.unlink(missing_ok=True)
    picture = Path(request["picture"])
    header = write_picture(done, picture, request["machine"])
    write_small(done.picture.colour, small)
    return header


def _gone_on_from(path: Path, settings: "RenderSettings") -> "tuple[RenderSettings, Sums | None, Clock | None]":
    """Return the settings of a frame with what there is of it in a file; a file that is of no use is removed."""
    from pemlo.standins.renderer.film_file import read_unfinished, seed_of  # noqa: PLC0415 - as above

    seed = seed_of(path)
    if seed is not None:
        again = replace(settings, seed=seed)
        with suppress(PemloError):
            found = read_unfinished(path, again)
            if found is not None:
                return again, *found
    path.unlink(missing_ok=True)
    return settings, None, None


class _Teller:
    def __init__(self, answers: TextIO) -> None:
        self._answers, self._told = answers, 0.0

    def step(self, fraction: float, text: str) -> None:
        now = time.monotonic()
        if now - self._told > _TELL_EVERY_S:
            self._told = now
            _answer(self._answers, {"fraction": fraction, "text": text})


def _answer(answers: TextIO, what: dict[str, object]) -> None:
    answers.write(json.dumps(what) + "\n")
    answers.flush()


if __name__ == "__main__":
    main(sys.stdin, sys.stdout)
