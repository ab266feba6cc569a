"""Pixels: their light, the codes of a display, sizes, and where rows come from. No files, no interface."""
