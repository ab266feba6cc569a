"""Commands here draw quickly."""

from quick_draws import quick_draws

__all__ = ["quick_draws"]
