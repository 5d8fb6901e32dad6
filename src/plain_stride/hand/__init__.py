"""What the hand did: pulls, tremor, steadying, pressure, and a simulated hand."""
