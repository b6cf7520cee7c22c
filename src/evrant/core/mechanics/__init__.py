"""Statics of supports: standing, hanging, bending, gripping."""
