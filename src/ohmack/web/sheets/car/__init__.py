"""The car over all its jobs: what happened, what the next installer needs, what is done with it from here."""
