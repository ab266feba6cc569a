"""Edits: what an edit list says of shots, and what a changed edit does to the film."""
