"""Plays sequences of pictures."""
