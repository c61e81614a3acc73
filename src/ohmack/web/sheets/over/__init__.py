"""Parts of another job that come over into this car."""
