"""Pencils: the rough underneath. Its file is kept as it came; what is shown is worked out from it."""
