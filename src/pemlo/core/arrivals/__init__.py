"""Frames that come in: where they lie, what is there, what is missing. Files only."""
