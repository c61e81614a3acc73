"""The sheets of a job, a folder each: what it says, what it draws, its page."""
