"""What comes off the car, counted out and in."""
