"""Other plans of the same job."""
