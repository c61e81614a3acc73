"""Prove: what must show where, before and after the fuse goes in; what a reading says; what is wrong."""
