"""Windows of their own."""
