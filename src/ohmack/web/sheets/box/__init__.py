"""The box: what it makes of its driver, boxes proposed, and the boards it is sawn from."""
