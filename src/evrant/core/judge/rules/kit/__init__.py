"""Rules about money and what is idle."""
