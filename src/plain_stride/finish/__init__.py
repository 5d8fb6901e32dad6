"""Finish: final art as files that other programs open."""
