"""Readings before anything is changed."""
