"""What the customer gets, to come."""
