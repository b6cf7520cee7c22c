"""A set as things in space: footprint, ceiling, bodies, frame, ways."""
