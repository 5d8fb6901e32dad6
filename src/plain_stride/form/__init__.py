"""Form: what the lines of a part enclose, and what lies behind it."""
