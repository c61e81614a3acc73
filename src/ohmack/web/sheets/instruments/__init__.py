"""The shop's instruments: where they are, who they are, what they show."""
