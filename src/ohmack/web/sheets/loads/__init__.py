"""Coils on channels."""
