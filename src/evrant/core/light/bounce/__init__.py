"""The room as a reflector: surfaces, patches, form factors and the solve."""
