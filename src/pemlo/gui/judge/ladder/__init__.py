"""Shows all trials of a frame beside each other."""
