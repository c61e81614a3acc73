"""The soak: what is tried over days before the car goes, and who holds it."""
