"""Proposals worked out from five answers, and what they assume."""
