"""The proof: the check that is made now, and the gates."""
