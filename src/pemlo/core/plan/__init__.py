"""The document: what is due, with which settings, on which machines, and what was timed. Frozen; edits are pure."""
