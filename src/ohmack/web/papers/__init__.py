"""Papers: what is carried to the car or handed over, as PDF."""
