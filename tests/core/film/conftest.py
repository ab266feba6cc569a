"""The draws are tested with what they cost: here half of them do."""

from quick_draws import quick_draws

__all__ = ["quick_draws"]
