"""Rules about what fits and what the frame shows."""
