"""The survey: the car with its facts by place."""
