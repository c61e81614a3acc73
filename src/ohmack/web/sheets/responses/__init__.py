"""Responses: read in, over each other, flattened."""
