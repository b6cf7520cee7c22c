"""Stowing: what is struck, where it goes, whether it gets there."""
