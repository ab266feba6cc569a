"""Hands in tests do not rest."""

from quick_rest import quick_rest

__all__ = ["quick_rest"]
