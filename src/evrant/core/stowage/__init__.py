"""Where everything goes when the room is struck."""
