"""A part of a picture: left, top, right and bottom edge, px; right and bottom are outside."""

Box = tuple[int, int, int, int]
