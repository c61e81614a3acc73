"""The pin map."""
