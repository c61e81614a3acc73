"""What topics make and every page shows: figures with their working, findings with their remedy."""
