"""Rules about what stands, hangs and holds."""
