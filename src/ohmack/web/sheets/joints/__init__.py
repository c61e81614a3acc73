"""Joints between the loom and the plan."""
