"""Widgets that know no job."""
