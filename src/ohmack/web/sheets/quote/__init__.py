"""The quote."""
