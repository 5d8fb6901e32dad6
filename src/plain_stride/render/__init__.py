"""Outlines to pixels with Qt's painter. No widgets, no jobs."""
