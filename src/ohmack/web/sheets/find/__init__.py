"""Catalogue parts tried on the plan."""
