"""Every test here is checked for what it leaves behind, and draws quickly."""

from left_behind import nothing_left_behind
from quick_draws import quick_draws
from quick_rest import quick_rest

__all__ = ["nothing_left_behind", "quick_draws", "quick_rest"]
