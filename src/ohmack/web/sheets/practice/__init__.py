"""Practice on a car the bench makes up: find what is wrong, and see what it takes."""
