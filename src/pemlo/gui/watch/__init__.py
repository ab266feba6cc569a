"""The stage Watch: what has come in, when the rest is done, and what is wrong."""
