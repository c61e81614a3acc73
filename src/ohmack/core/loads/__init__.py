"""Loads: every wiring of the coils on every channel, and what drives each speaker."""
