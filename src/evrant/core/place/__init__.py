"""What puts things somewhere: patterns of light, rigging, starting sets, verbs that move several things."""
