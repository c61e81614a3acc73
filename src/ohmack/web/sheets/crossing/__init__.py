"""Where the subwoofer meets the front."""
