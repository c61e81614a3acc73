"""Holes and templates."""
