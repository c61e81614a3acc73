"""Supply: runs sized together, fuses, small circuits, and what a factory feed may carry."""
