"""Trials that a person's own command renders: what is run, measured, accepted, and what is worth running next."""
