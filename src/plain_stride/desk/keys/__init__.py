"""The board of keys: which place does what, and which key is held."""
