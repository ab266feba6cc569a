"""Draws are few: they are tested where they are made."""

from quick_draws import quick_draws

__all__ = ["quick_draws"]
