"""Fuses against wires and shorts."""
