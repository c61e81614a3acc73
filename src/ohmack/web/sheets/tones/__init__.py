"""Tones to set and prove a system with."""
