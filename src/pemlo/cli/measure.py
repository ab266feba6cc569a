"""``pemlo measure``: grain of a picture, and its error against a cleaner one."""

import argparse
import json
import math
from pathlib import Path
from typing import Any

from pemlo.cli.progress_bar import ProgressBar
from pemlo.cli.viewing import add_viewing, display_of
from pemlo.core.appraisal.noise_sources import sources_of
from pemlo.core.appraisal.picture_comparison import ComparisonRequest, PictureComparison, compare, part_of
from pemlo.core.appraisal.sentences import split_words
from pemlo.core.errors import InputError, Problem
from pemlo.core.files.layers import COLOUR
from pemlo.core.files.picture_file import ReadOptions
from pemlo.core.interval import Interval
from pemlo.core.measure import noise_sources
from pemlo.core.project.viewing import VIEWING_CONDITIONS, pixels_per_degree


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Say what the command takes."""
    parser.add_argument("picture", type=Path)
    parser.add_argument("second", type=Path, nargs="?", help="the same frame and settings with another seed")
    parser.add_argument("--reference", type=Path, help="the cleanest picture of the frame")
    parser.add_argument("--reference-second", type=Path, help="the reference with another seed")
    parser.add_argument("--layer", default=COLOUR, help="layer of the files; their colour unless given")
    light = parser.add_mutually_exclusive_group()
    light.add_argument("--scene-linear", dest="linear", action="store_true", default=None, help="files hold light")
    light.add_argument("--display-referred", dest="linear", action="store_false", help="files hold display levels")
    parser.add_argument("--denoised", action=argparse.BooleanOptionalAction, help="whether the picture was denoised")
    add_viewing(parser)
    parser.add_argument(
        "--seen-at",
        metavar="WHERE",
        default="desk",
        help=f"{', '.join(viewing_condition.name for viewing_condition in VIEWING_CONDITIONS)}; or px a degree",
    )
    parser.add_argument("--as-seen", action="store_true", help="grain and error of what an eye sees from there")
    parser.add_argument("--region", metavar="X0,Y0,X1,Y1", help="only a part, in px")
    parser.add_argument("--json", action="store_true", help="write JSON")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    """Print what was measured, in codes of an 8-bit display."""
    question = ComparisonRequest(
        args.picture,
        args.second,
        args.reference,
        args.reference_second,
        ReadOptions(args.layer, args.linear),
        args.denoised,
        display=display_of(args),
        seen_from=_viewing(args.seen_at),
        as_seen=args.as_seen,
        region=_region(args.region),
    )
    with ProgressBar() as bar:
        picture_comparison = compare(question, bar)
    sources = sources_of(args.picture, question.display, args.second, part_of(question), question.reading)
    if args.json:
        print(
            json.dumps(
                {
                    **as_json(picture_comparison),
                    "noise_from": sources and noise_sources.shares(sources.rest, sources.sources),
                }
            )
        )
        return 0
    lines = sentences(picture_comparison)
    if sources:
        shares = noise_sources.shares(sources.rest, sources.sources)
        lines.append("noise from " + ", ".join(f"{name} {share:.0%}" for name, share in shares.items()))
        lines.append(f"           {split_words(sources.rest, sources.sources)}")
    print("\n".join(lines))
    return 0


def _viewing(text: str) -> str:
    try:
        pixels_per_degree(text, 1)
    except ValueError as error:
        raise InputError([Problem("--seen-at", str(error))]) from error
    return text.strip()


def _region(text: str | None) -> tuple[int, int, int, int] | None:
    if text is None:
        return None
    try:
        left, top, right, bottom = (int(part) for part in text.split(","))
    except ValueError as error:
        raise InputError(
            [Problem("--region", f"“{text}” is not four whole numbers")], "Write 100,40,260,130."
        ) from error
    return left, top, right, bottom


def as_json(picture_comparison: PictureComparison) -> dict[str, Any]:
    """Return what was measured; what is not known is null. Errors and grain are display codes."""
    measured, error, grain = (
        picture_comparison.measured,
        picture_comparison.measured.error,
        picture_comparison.measured.grain,
    )
    return {
        "grain": grain
        and {
            "mean": _short(grain.mean),
            "worst": _short(grain.worst),
            "worst_region": list(grain.worst_region),
            "from": grain.how,
            "upper_bound": grain.upper_bound,
        },
        "grain_linear": grain and _short(grain.linear),
        "error": error
        and {
            "total": _short(error.total.middle),
            "grain": _short(error.grain),
            "softening": error.softening and _short(error.softening.middle),
            "scaling": _short(error.scaling),
            "reference_noise": _short(error.reference_noise),
            "intervals": {
                "total": [_short(error.total.low), _short(error.total.high)],
                "softening": error.softening and [_short(error.softening.low), _short(error.softening.high)],
            },
        },
        "flip": picture_comparison.scores and _short(picture_comparison.scores.flip),
        "ssim": picture_comparison.scores and _short(picture_comparison.scores.ssim),
        "psnr": picture_comparison.scores and _short(picture_comparison.scores.psnr),
        "fireflies": measured.fireflies.count,
        "fireflies_energy_share": _short(measured.fireflies.energy_share),
        "pixels": measured.pixels,
        "bad_pixels": measured.bad,
        "size": list(measured.size),
        "pixels_per_degree": _short(picture_comparison.pixels_per_degree),
    }


def _short(value: float | None) -> float | None:
    return None if value is None or not math.isfinite(value) else float(f"{value:.6g}")


def _with_interval(value: Interval) -> str:
    return f"{value.middle:.2f} ({value.low:.2f} to {value.high:.2f})"


def sentences(picture_comparison: PictureComparison) -> list[str]:
    """Return what was measured, in words."""
    measured, error, grain, scores = (
        picture_comparison.measured,
        picture_comparison.measured.error,
        picture_comparison.measured.grain,
        picture_comparison.scores,
    )
    lines = [f"{measured.size[0]}×{measured.size[1]} px; numbers are levels of an 8-bit display"]
    if grain:
        bound = ", an upper bound: texture counts too" if grain.upper_bound else ""
        spot = ",".join(map(str, grain.worst_region))
        lines.append(f"grain      {grain.mean:.2f}, worst {grain.worst:.2f} near {spot} (from {grain.how}{bound})")
    else:
        lines.append("grain      not known: render this frame once more with another seed")
    if error:
        lines.append(f"error      {_with_interval(error.total)}")
        softening = "not known: render this frame once more with another seed"
        if error.softening:
            seen = error.softening.low > 0
            softening = _with_interval(error.softening) + ("" if seen else ", none that can be measured")
            softening = softening if error.softening.high > 0 else "none: it was not denoised"
        lines.append(f"softening  {softening}")
        if error.scaling:
            lines.append(f"scaling    {error.scaling:.2f}")
        if error.reference_noise is None:
            lines.append("           the reference's own noise is not known, and counts as error")
    if scores:
        lines.append(f"ꟻLIP {scores.flip:.4f} at {picture_comparison.pixels_per_degree:.0f} px a degree")
        lines.append(f"SSIM {scores.ssim:.4f}, PSNR {scores.psnr:.2f} dB")
    fireflies = measured.fireflies
    lines.append(f"fireflies  {fireflies.count}, with {fireflies.energy_share:.2%} of the light")
    if measured.bad:
        lines.append(f"{measured.bad} pixels hold no numbers and were left out")
    return lines
