"""Commands here draw quickly, and what one has made of a film the next need not make."""

from quick_draws import quick_draws
from shared_memo import shared_memo

__all__ = ["quick_draws", "shared_memo"]
