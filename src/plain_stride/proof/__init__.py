"""The proof: what a senior would mark in red, with places, figures, limits and mends."""
