"""Formulas on floats: nothing here knows a design, and everything says its units, its range and its source."""
