"""The sheet for the bay."""
