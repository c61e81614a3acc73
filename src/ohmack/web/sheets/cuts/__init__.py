"""The cut list."""
