"""The demo job: a lock keeper with a lantern at a canal lock, drawn by code."""
