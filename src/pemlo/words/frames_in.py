"""How far a film is whose frames come in, in a sentence. Pure text."""

from pemlo.core.arrivals.live_forecast import LiveForecast
from pemlo.core.chances import chance_percent
from pemlo.words.verdicts import say_hours


def headline(found: LiveForecast) -> str:
    """Return how far a film is and when it is done, in a sentence."""
    project, snapshot = found.snapshot.project, found.snapshot
    words = f"{snapshot.done_count:,} of {snapshot.wanted:,} frames in".replace(",", "\u202f")
    if found.done:
        return f"All {snapshot.wanted:,} frames are in".replace(",", "\u202f")
    if found.finish_h is None or found.probability is None:
        return f"{words}; {found.why_not or 'when it is done is not known'}"
    low, middle, high = (say_hours(hours, project) for hours in found.finish_h)
    return f"{words}; done {middle} ({low}–{high}), chance {chance_percent(found.probability)}"
