"""Measures pictures: noise, error against a reference, fireflies, flicker, scores. No files, no interface."""
