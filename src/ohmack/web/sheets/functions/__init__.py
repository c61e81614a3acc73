"""What the car does, and what becomes of it."""
