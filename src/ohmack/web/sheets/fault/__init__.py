"""The search for a fault."""
