"""What stands round the sheet."""
