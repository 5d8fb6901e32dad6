"""Practice: drills, what is measured of them, and what the figures say of a hand."""
