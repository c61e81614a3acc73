"""Build: what goes on paper, what to order, what to prepare, and whether everything was looked at."""
