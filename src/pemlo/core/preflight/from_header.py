"""What the renderer is really set to, as the header of a frame tells. Files; quick."""

from collections.abc import Mapping
from pathlib import Path
from typing import Any

from pemlo.core.arrivals.frame_check import STAND_IN_OF
from pemlo.core.errors import InputError
from pemlo.core.files.header import OURS, read_header
from pemlo.core.files.picture_file import PictureFile
from pemlo.core.persistence.table import kept_stages
from pemlo.core.persistence.trial_header import fields_of, is_ours
from pemlo.core.preflight.check_context import plan_row
from pemlo.core.project.launch import LaunchRow
from pemlo.core.project.project import Project
from pemlo.core.project.record import build


def row_from_header(project: Project, shot: str, path: Path) -> LaunchRow:
    """Return the launch of a shot as a frame of it tells; what its header leaves out is not known.

    Parameters
    ----------
    project : Project
        Whose names of other renderers' attributes are used.
    shot : str
    path : path
        Of the picture.

    Raises
    ------
    FileError
        If it cannot be read.
    InputError
        If its header tells nothing.
    """
    header = read_header(path)
    said = fields_of(header, dict(project.watching.header_names))
    if not {"samples", "denoise", "noise_threshold", "resolution_percent"} & set(said):
        raise InputError(f"The header of {path.name} tells no settings.", "Say in Watch which attribute holds what.")
    planned = plan_row(project, project.shot(shot))
    percent: float | None = said.get("resolution_percent")
    with PictureFile(path) as file:
        width, height = file.size
        layers = tuple(layer.name for layer in file.layers if layer.name and layer.name != "colour")
        stands_in = STAND_IN_OF in file.header.attributes
        linear = file.scene_linear
    whole = None if percent is None or stands_in else 100 / percent
    fields: dict[str, object] = {
        "shot": shot,
        "width": None if whole is None else round(width * whole),
        "height": None if whole is None else round(height * whole),
        "percent": percent,
        "samples": said.get("samples"),
        "threshold": said.get("noise_threshold") or (0.0 if "samples" in said else None),
        "denoise": said.get("denoise", ""),
        "min_samples": said.get("min_samples"),
        **(_only_ours(said, header.attributes) if is_ours(header) else {}),
        "layers": layers,
        "pattern": planned.pattern,
        "folder": planned.folder,
        "colour": "scene-linear" if linear else "display",
    }
    return build(LaunchRow, fields, f"The header of {path.name}")


def _only_ours(said: Mapping[str, Any], attributes: Mapping[str, str]) -> dict[str, object]:
    """Return what the header of the small renderer tells beside that, also by leaving it out."""
    part = said.get("region_percent")
    return {
        "most_seconds": said.get("most_seconds") or 0.0,
        "split": said.get("split"),
        "switches": said.get("switches", ()),
        "keep": kept_stages(attributes.get(f"{OURS}keep", "")),
        "region": "" if part is None else f"{part:g} % of the picture",
    }
