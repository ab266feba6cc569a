"""Who renders when: hours of machines, what frames at once are worth, and the work that can be done by a moment."""
