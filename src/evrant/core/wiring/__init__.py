"""Electricity for a set: loads over time, leads, and where they run."""
