"""The order of work: what is left, how long it took, how long it will take."""
