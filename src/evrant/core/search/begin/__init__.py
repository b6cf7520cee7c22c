"""The way in: five answers become a studio with usual, stated assumptions, and proposals worked out for it."""
