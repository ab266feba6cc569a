"""How far a film is whose frames come in, in a sentence. Pure text."""

from pemlo.core.arrivals.live_forecast import LiveForecast
from pemlo.core.chances import chance_percent
from pemlo.words.verdicts import say_hours


def headline(live: LiveForecast) -> str:
    """Return how far a film is and when it is done, in a sentence."""
    project, snapshot = live.snapshot.project, live.snapshot
    words = f"{snapshot.done_count:,} of {snapshot.wanted:,} frames in".replace(",", "\u202f")
    if live.done:
        return f"All {snapshot.wanted:,} frames are in".replace(",", "\u202f")
    if live.finish_h is None or live.probability is None:
        return f"{words}; {live.why_not or 'when it is done is not known'}"
    low, middle, high = (say_hours(hours, project) for hours in live.finish_h)
    return f"{words}; done {middle} ({low}–{high}), chance {chance_percent(live.probability)}"
