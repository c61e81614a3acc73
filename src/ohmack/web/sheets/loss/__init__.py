"""What brings the loss of a supply under the limit."""
