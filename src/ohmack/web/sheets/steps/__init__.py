"""The steps of the work."""
