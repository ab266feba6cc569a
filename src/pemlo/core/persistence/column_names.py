"""What columns of tables are called: one spelling, and what people write in its place. Pure.

A title is matched by its own spelling first, then by what a person said that it means, then by its usual other names;
what stays unmatched is kept with its row, and said.
"""

import re
from collections.abc import Collection, Mapping, Sequence

LONGEST_TITLE = 200  # letters of a title that are looked at
# A title as people write it, and the columns that it may be, the first that the table can have. Common practice, no
# source.
_OTHERS: Mapping[str, tuple[str, ...]] = {
    "name": ("shot", "machine"), "shot_name": ("shot",), "shots": ("shot",), "host": ("machine",),
    "node": ("machine",), "computer": ("machine",), "machine_name": ("machine",), "machines": ("count",),
    "number": ("count",), "from": ("first",), "start": ("first",), "start_frame": ("first",), "begin": ("first",),
    "first_frame": ("first",), "in": ("first",), "to": ("last",), "end": ("last",), "end_frame": ("last",),
    "last_frame": ("last",), "out": ("last",), "range": ("frames",), "frame_range": ("frames",),
    "frame_no": ("frame",), "frame_number": ("frame",), "spp": ("samples",), "sample": ("samples",),
    "samples_per_pixel": ("samples",), "max_samples": ("samples",), "most_samples": ("samples",),
    "samples_max": ("samples",), "passes": ("mark", "samples"), "min_spp": ("min_samples",),
    "least": ("min_samples",), "min": ("min_samples",), "least_samples": ("min_samples",),
    "samples_min": ("min_samples",),
    "threshold": ("noise_threshold",), "noise_limit": ("noise_threshold",), "noise_threshold": ("threshold",),
    "adaptive_threshold": ("noise_threshold", "threshold"), "res": ("resolution", "size"), "size": ("resolution",),
    "resolution": ("size",), "percent": ("resolution_percent", "percentage"),
    "percentage": ("resolution_percent",), "scale": ("resolution_percent", "percentage"),
    "resolution_percent": ("percentage",), "size_%": ("resolution_percent", "percentage"),
    "resolution_percentage": ("resolution_percent", "percentage"), "time": ("seconds",), "took": ("seconds",),
    "render_time": ("seconds",), "seconds_a_frame": ("seconds",), "seconds_per_frame": ("seconds",),
    "time_per_frame": ("seconds",), "sec": ("seconds",), "duration": ("seconds",), "denoiser": ("denoise",),
    "denoising": ("denoise",), "denoised": ("denoise",), "limit": ("most_seconds",), "time_limit": ("most_seconds",),
    "cap": ("most_seconds",), "max_time": ("most_seconds",), "region": ("region_percent",),
    "part": ("region_percent",), "region_%": ("region_percent",), "memory": ("memory_gib",), "ram": ("memory_gib",),
    "disk": ("disk_mib",), "comment": ("note",), "comments": ("note",), "remark": ("note",), "remarks": ("note",),
    "notes": ("note",), "kept": ("keep",), "rate": ("fps",), "frame_rate": ("fps",), "deadline": ("due",),
    "file": ("pattern",), "file_name": ("pattern",), "path": ("folder",), "output": ("folder",), "speed": ("speed",),
    "in_parallel": ("frames_at_once",), "frames_in_parallel": ("frames_at_once",), "parallel": ("frames_at_once",),
    "failed": ("loss_percent",), "failed_frames": ("loss_percent",), "lost": ("loss_percent",),
    "at_once": ("frames_at_once",), "price": ("price_per_hour",), "loss": ("loss_percent",),
    "every": ("frame_step", "step"),
    "aspect": ("pixel_aspect",), "engine": ("way",), "method": ("way",), "prepare": ("prepare_seconds",),
    "light": ("light_seconds",), "trace": ("trace_seconds",), "write": ("write_seconds",),
}  # fmt: skip
# Of the program's own tables on screen: what is worked out, and not read.
KEPT = frozenset({"scene", "threads", "wall_seconds"})  # of the small renderer, kept with a row
WORKED_OUT = frozenset({"", "off_fit", "pixels", "on_screen", "a_frame", "machine_hours", "gives"})


def key_of(title: str) -> str:
    """Return a title as columns are compared: small letters, and one bar between words.

    Examples
    --------
    >>> key_of("Noise  Threshold "), key_of("last-frame")
    ('noise_threshold', 'last_frame')
    """
    return re.sub(r"[\s_-]+", "_", title[:LONGEST_TITLE].strip().lower()).strip("_")


def matched(titles: Sequence[str], columns: Collection[str], said: Mapping[str, str] | None = None) -> tuple[str, ...]:
    """Return which column each title is; its own key where it is none of them.

    Parameters
    ----------
    titles : sequence of str
        As they stand in the table.
    columns : collection of str
        Names of those that the table can have.
    said : mapping of str to str, optional
        What a person said that titles mean, by their keys.

    Examples
    --------
    >>> matched(["Name", "from", "to", "spp", "Artist"], ["shot", "first", "last", "samples"])
    ('shot', 'first', 'last', 'samples', 'artist')
    """
    keys = [key_of(title) for title in titles]
    taken = {key for key in keys if key in columns}
    found = []
    for key in keys:
        name = key
        if key not in columns:
            meant = ((said or {}).get(key, ""), *_OTHERS.get(key, ()))
            name = next((one for one in meant if one in columns and one not in taken), key)
            taken.add(name)
        found.append(name)
    return tuple(found)


def unused(titles: Sequence[str], columns: Collection[str], said: Mapping[str, str] | None = None) -> tuple[str, ...]:
    """Return the titles that are no column; what the program itself works out and shows is not among them."""
    names = matched(titles, columns, said)
    return tuple(
        title.strip()
        for title, name in zip(titles, names, strict=True)
        if name not in columns and name not in WORKED_OUT and name not in KEPT
    )
