"""The edge: what people type and files that go in and out."""
