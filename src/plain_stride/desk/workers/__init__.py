"""Threads and processes beside the window."""
