"""What readings in the room say against what was forecast, and what follows for gear and walls."""
