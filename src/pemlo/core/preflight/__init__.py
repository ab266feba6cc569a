"""Checks before a launch: what is wrong with a film, its plan, its launch and its disk, and how to mend it."""
