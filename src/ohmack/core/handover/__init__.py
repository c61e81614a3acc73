"""Handing over: soak, what is left with whom, what the customer gets, the history of the car."""
