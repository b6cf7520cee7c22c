"""Kit: what to buy, in which order, and what not to buy."""
