"""Boxes: the air behind the cone, what it makes of a driver, and the boards it is sawn from."""
