"""Pemlo: forecast how long an animation takes to render, and make it fit."""

__version__ = "0.1.0"
