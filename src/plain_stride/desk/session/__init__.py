"""The open job, what is in hand, and what is done to them."""
