"""The factory system: which it is, what hangs together in it, what its functions live on, and the ways to add to it."""
