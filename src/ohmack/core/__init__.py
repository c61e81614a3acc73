"""The heart: pure computation on a design document. No web, no SQL, no clock, no files."""
