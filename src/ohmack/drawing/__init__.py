"""Evaluation to SVG: pure functions, one drawing a module."""
