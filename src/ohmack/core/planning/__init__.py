"""Everything that makes edits: starting points, wiring laid in, strategies, parts tried, options."""
