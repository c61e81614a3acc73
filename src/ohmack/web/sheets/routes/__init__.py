"""The route cards."""
