"""The document: shots, delivery, machines, settings, trials and marks; frozen, with pure edits."""
