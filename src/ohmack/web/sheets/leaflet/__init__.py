"""The page for the customer: as it will be read, the link to it, when the car comes back."""
