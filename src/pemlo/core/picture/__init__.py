"""What a frame looks like, in numbers: grain, error against a cleaner one, flicker, scores. No files, no interface."""
