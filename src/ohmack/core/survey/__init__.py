"""The survey: readings against what should be there, and facts that contradict each other."""
