"""The board: finished size, resolution, and where pencils lie on it."""
