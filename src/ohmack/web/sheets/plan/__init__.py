"""Parts and wires on the car."""
