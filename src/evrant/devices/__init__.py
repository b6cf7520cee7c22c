"""Instruments a room is measured with: what each can do, and the simulated stand-ins that ship with the app."""
