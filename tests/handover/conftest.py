"""What one test has made of a film the next need not make."""

from shared_memo import shared_memo

__all__ = ["shared_memo"]
