"""What to order."""
