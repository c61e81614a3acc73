"""The job pack: what is in it, made and fetched, signed for."""
