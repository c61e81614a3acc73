"""Levels and gain."""
