"""The door: topics in order, findings, sensitivity, verdict, what moved."""
