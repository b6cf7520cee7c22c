"""Evrant: plans a small room at home as a studio, and says before buying whether it works."""

__version__ = "0.1.0"
