"""The power tree and the schools of current."""
