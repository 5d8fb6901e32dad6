"""The sheet: events, gestures, the picture of the board."""
