"""Everything that was read, against what was predicted."""
