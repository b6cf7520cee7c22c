"""Rules about where things go when the room is struck."""
