"""Which factory system the car has."""
