"""Wire, fuse and voltage."""
