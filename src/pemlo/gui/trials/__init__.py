"""The trials: what has been timed, how it fits, and what to time next."""
