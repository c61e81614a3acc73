"""Where things are and whether they fit: places, runs, clearances, zones to keep clear."""
