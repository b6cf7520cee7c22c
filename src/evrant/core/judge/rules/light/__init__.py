"""Rules about light: exposure, shape, colour, what the room returns."""
