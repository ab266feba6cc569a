"""Predicts the error of settings that were never rendered, from what was measured. No files, no interface."""
