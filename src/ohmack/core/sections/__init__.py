"""The sections of an evaluation: each computes the figures of one stage from the design and the sections before it."""
