"""The command line: one file a command; core only, no Qt."""
