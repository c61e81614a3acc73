"""Which wire leads where."""
