"""Files: the `.pemlo` document, and tables as CSV. The only place in the core that touches the disk."""
