"""The judge stage: what can be seen, and what passes."""
