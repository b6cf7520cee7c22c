"""Sourced tables as Python constants."""
