"""What one test has made of a film the next need not make, and draws are few: they are tested where they are made."""

from quick_draws import quick_draws
from shared_memo import shared_memo

__all__ = ["quick_draws", "shared_memo"]
