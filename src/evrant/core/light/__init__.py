"""Light: photometry, exposure, softness, colour, and what the room returns."""
