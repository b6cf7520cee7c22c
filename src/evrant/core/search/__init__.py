"""What looks for sets and purchases by asking the judge."""
