"""What people read of what the core found: sentences, made of data alone. Pure text; no Qt, no files.

The core returns numbers and reasons. Errors and findings of checks carry their own message and hint, and stay with what
raises them; how a number or a duration is written stands in `core/units.py`, as those messages need it too.
"""
