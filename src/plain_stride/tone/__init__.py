"""Tone: greys made of lines, blacks, halos, and what repeats; what print makes of them."""
