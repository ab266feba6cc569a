"""Measures and predicts from picture files. Takes seconds; no interface."""
