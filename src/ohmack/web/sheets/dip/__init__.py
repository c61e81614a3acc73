"""The dip in a bass note."""
