"""Rules about circuits, leads, heat, batteries and triggers."""
