"""The drop test."""
