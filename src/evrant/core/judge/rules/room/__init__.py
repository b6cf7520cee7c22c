"""Rules about the room as measured."""
