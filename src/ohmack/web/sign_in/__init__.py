"""Who is there and what they may: sign-in, the gate every request passes, one's own account, the people of a shop."""
