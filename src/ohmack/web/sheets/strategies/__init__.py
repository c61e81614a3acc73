"""The ways to do it, side by side."""
