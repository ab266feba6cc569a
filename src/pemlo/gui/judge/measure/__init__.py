"""Shows what was measured and predicted of a picture."""
