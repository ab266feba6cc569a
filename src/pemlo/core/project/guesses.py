"""Times that nobody took: ``~4:02``, ``about 4 m``, ``a third``, ``0.4x``. Pure text."""

import re
from fractions import Fraction

from pemlo.core.errors import InputError
from pemlo.core.project.project import Project
from pemlo.core.project.record import build
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.trials import Trial
from pemlo.core.units import parse_duration

_ABOUT = re.compile(r"^(?:~|≈|about\b|roughly\b|circa\b|ca\.?\s)\s*(.*)$", re.IGNORECASE)
_WORDS = {"half": "1/2", "a half": "1/2", "a third": "1/3", "one third": "1/3", "a quarter": "1/4", "a fifth": "1/5",
          "a tenth": "1/10", "two thirds": "2/3", "three quarters": "3/4", "the same": "1", "twice": "2", "double": "2",
          "three times": "3", "four times": "4"}  # fmt: skip
LONGEST = 60  # letters: a duration has fewer
_NUMBER = r"\d{1,9}(?:\.\d{1,9})?|\.\d{1,9}"
_OF_TIME = re.compile(r" (?:of (?:the )?(?:time|it)|the time|as long|as much)$", re.IGNORECASE)


def read_time(text: str, base: float | None) -> tuple[float, bool]:
    """Read what a frame takes, or is guessed to take.

    Parameters
    ----------
    text : str
        A duration is a time that was taken; with ``~`` or ``about`` it is a guess, and so is a share of another time.
    base : float, optional
        Seconds of the frame as asked, of which shares are meant; None if nobody timed it.

    Returns
    -------
    seconds : float
    assumed : bool

    Raises
    ------
    InputError
        If it is neither, or a share and there is nothing to take it of.

    Examples
    --------
    >>> read_time("4:02", None), read_time("~4:02", None), read_time("a third of the time", 300.0)
    ((242.0, False), (242.0, True), (100.0, True))
    """
    words = " ".join(text[:LONGEST].split())
    share = _share(words)
    if share is not None:
        if base is None:
            raise InputError(
                f"“{words}” is a share, and no frame of this shot was timed yet.", "Type one time as asked first."
            )
        return base * share, True
    guess = _ABOUT.match(words)
    return (parse_duration(guess[1]), True) if guess else (parse_duration(words), False)


def base_seconds(project: Project, shot: str) -> float | None:
    """Return the seconds of which shares are meant: of the shot as asked, or of its longest trial; None without any."""
    timed = [trial for trial in project.trials_of(shot) if not trial.assumed and not trial.left_out]
    asked = project.shot(shot).asked.frame_fields()
    as_asked = [trial for trial in timed if trial.frame_fields() == asked]
    return max((trial.seconds for trial in as_asked or timed), default=None)


def guessed_trial(project: Project, name: str, settings: FrameSettings, text: str) -> Trial:
    """Return a trial that nobody timed: settings of a shot, and what they are guessed to take.

    Raises
    ------
    InputError
        If the time cannot be read.
    """
    shot = project.shot(name)
    seconds, _ = read_time(text, base_seconds(project, name))
    fields = {field: getattr(settings, field) for field in FrameSettings.model_fields}
    middle = shot.middle
    return build(Trial, {**fields, "shot": name, "frame": middle, "seconds": seconds, "assumed": True}, "Guess")


def _share(words: str) -> float | None:
    plain = _OF_TIME.sub("", words.lower())
    plain = _WORDS.get(plain, plain)
    percent = re.fullmatch(rf"({_NUMBER}) ?%", plain)
    factor = re.fullmatch(rf"[x×]? ?({_NUMBER}) ?[x×]", plain) or re.fullmatch(rf"[x×] ?({_NUMBER})", plain)
    fraction = re.fullmatch(r"(\d{1,3})/(\d{1,3})", plain)
    if plain in {"1", "2", "3", "4"} and words.lower() not in {"1", "2", "3", "4"}:
        value = float(plain)
    elif percent:
        value = float(percent[1]) / 100
    elif factor:
        value = float(factor[1])
    elif fraction and int(fraction[2]):
        value = float(Fraction(int(fraction[1]), int(fraction[2])))
    else:
        return None
    if not 1e-4 <= value <= 1e4:
        raise InputError(f"“{words}” is not between a ten-thousandth and ten thousand times.")
    return value
