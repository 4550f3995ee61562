"""What is shown while nothing is open."""
