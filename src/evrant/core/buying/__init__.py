"""What things cost: prices, delivery, tax, running costs."""
