"""Picture files: headers, layers, pixels, sequences, small copies. Knows nothing above it."""
