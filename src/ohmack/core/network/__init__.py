"""The power network of a car as one thing: what it is made of, how a design builds it, in which states it is solved."""
