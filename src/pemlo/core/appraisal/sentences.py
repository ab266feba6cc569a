"""What was found out about pictures, in sentences. Pure."""

from collections.abc import Mapping

from pemlo.core.measure.noise_sources import NoiseSource, cheapest_split
from pemlo.core.predict.denoise_worth import DenoiseWorth

WORTH_IT = 0.97  # a change that saves less than 3 % is not proposed


def split_words(rest: float, sources: Mapping[str, NoiseSource]) -> str:
    """Return how rays are better shared out among the sources of noise; see `cheapest_split`."""
    best = cheapest_split(rest, sources)
    changed = [
        f"{name} {sources[name].rays} to {rays}" for name, rays in best.rays.items() if rays != sources[name].rays
    ]
    if best.time > WORTH_IT or not changed:
        return "Rays are shared out well: no other split saves 3 %."
    return (
        f"Rays a sample: {', '.join(changed)}. Same noise in {best.time:.0%} of the time at best. Render it to be sure."
    )


def denoise_sentence(worth: DenoiseWorth) -> str:
    """Return whether a denoiser is worth its time, and what it softens."""
    share = f"saves {worth.saves:.0%} of" if worth.saves >= 0.005 else f"costs {-worth.saves:.0%} more than"
    words = (
        f"Denoised at {worth.samples:.0f} samples equals {worth.equal_samples:.0f} samples without: {share} the "
        "frame time."
    )
    if worth.samples >= worth.equal_samples:
        words = (
            f"Denoised at {worth.samples:.0f} samples is no better than {worth.equal_samples:.0f} samples without: "
            "leave it off."
        )
    if worth.softening is None:
        return words + " What it softens is not known: render this frame once more with another seed."
    if worth.softening <= 0.05:
        return words + " No softening was measured."
    return f"{words} It softens the picture by {worth.softening:.1f} levels."
