"""The state of a document's film, as a window has it."""

from pathlib import Path

from pemlo.app.file_facts import FILES, FileFacts, when_written
from pemlo.app.film_state import FilmState


def state_of(document, jobs):
    return FilmState(document, jobs, FileFacts(jobs, FILES, when_written), Path)
