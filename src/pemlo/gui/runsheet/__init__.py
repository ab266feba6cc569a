"""Run sheet: who renders when, and what would be done sooner."""
