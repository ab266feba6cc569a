"""Thirty terms, each in one sentence, and the words on screen that mean them. Pure text."""

TERMS: tuple[tuple[str, str], ...] = (
    ("as asked", "The settings that the brief asks for, before any plan changes them."),
    ("available", "The machine-hours that this film can use before its deadline, less what assembly needs."),
    ("budget", "The most that the film's machines may cost; a plan needs no more machine-hours than it pays for."),
    ("cache", "What a machine keeps from frame to frame, so that it does not prepare the scene or its light again."),
    ("chance", "In how many of a hundred runs of the film the last frame is done in time."),
    ("clock hours", "Hours on the wall, however fast the machine is."),
    ("denoiser", "A filter that takes noise out of a rendered picture, and washes some detail out with it."),
    ("error", "Root mean square difference between a picture and the reference, in levels of an 8-bit display."),
    ("error limit", "The largest error that passes: from marks, by hand, or the error as asked."),
    ("fireflies", "Single pixels that are far brighter than their neighbours."),
    ("flicker", "What changes between neighbouring frames that should not; shown for blocks of 8 × 8 px."),
    ("frame step", "Every frame is rendered, or every second one, and the one before is held or two are mixed."),
    ("frames in parallel", "How many frames one machine renders side by side."),
    ("interval", "The two ends between which a number lies nine times in ten, such as 89 (77–103)."),
    ("level", "One of the 256 steps of brightness of an 8-bit display."),
    ("lever", "A setting that trades time for picture: samples, threshold, denoising, size, and more."),
    ("likely", "The middle: half of the runs need more, half of them less."),
    ("machine-hour", "The work of the reference machine in an hour, one frame at a time."),
    ("noise threshold", "The noise at which a pixel takes no more samples."),
    ("outlier", "A time that differs so much from the others that it hardly counts, until it is looked at."),
    ("predicted", "Worked out from trials, not measured."),
    ("reference", "The cleanest picture of a frame; the others are held against it."),
    ("resolution percentage", "The size of a rendered frame as a share of the size that is delivered, on each side."),
    ("retakes", "The share of frames that are rendered again after a look at them."),
    ("safe", "As many machine-hours as are enough with the chance that you ask for."),
    ("samples", "How many light paths a pixel takes; four times as many halve the noise."),
    ("softening", "The detail that a denoiser washes out."),
    ("time limit", "The longest that a frame may trace light; then it is finished as it is."),
    ("to spare", "Available less safe. Where it would be below nothing, that is how much the film is short."),
    ("trial", "One timed test frame, with the settings that it had."),
)
SENTENCES = dict(TERMS)
# Other words on screen that mean a term.
ALSO = {
    "available by the deadline": "available", "cached between frames": "cache", "denoise": "denoiser",
    "how sure": "chance", "levers": "lever", "predicted look": "predicted", "resolution": "resolution percentage",
    "threshold": "noise threshold", "in parallel": "frames in parallel", "before the deadline": "available",
}  # fmt: skip


def term_of(words: str) -> str:
    """Return which term some words on screen mean; empty if none.

    Examples
    --------
    >>> term_of("How sure, %"), term_of("Samples"), term_of("title")
    ('chance', 'samples', '')
    """
    plain = words.partition(",")[0].strip().lower()
    return ALSO.get(plain, plain if plain in SENTENCES else "")
