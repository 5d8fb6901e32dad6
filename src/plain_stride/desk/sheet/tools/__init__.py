"""What a drag on the sheet can do instead of pulling a line, once it was asked for."""
