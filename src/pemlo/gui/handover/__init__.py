"""The stage Hand-over."""
