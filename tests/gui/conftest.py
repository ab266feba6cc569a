"""Every test here is checked for what it leaves behind."""

from left_behind import nothing_left_behind

__all__ = ["nothing_left_behind"]
