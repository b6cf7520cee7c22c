"""Sound: how the room rings, what a microphone hears of a voice and of what runs."""
