"""Arrange for me: find sets for a shot in a room, or say what stands in the way."""
