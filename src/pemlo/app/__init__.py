"""What the window stands on: the document with undo, background work, errors, settings. Qt, but no widgets."""
