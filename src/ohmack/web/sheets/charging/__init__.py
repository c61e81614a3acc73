"""Charging and what the battery has to live with."""
