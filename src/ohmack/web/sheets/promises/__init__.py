"""What was promised, what was measured for it, what the customer says."""
