"""Whether parts fit where they go."""
