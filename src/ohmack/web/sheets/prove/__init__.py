"""Checks and first power, to come."""
