"""Of nothing being done, s: a pause that is longer than the first is no work, which the inker may set; one longer than
the second ends a sitting. Common practice has no figure."""

PAUSE_S, SITTING_S = 90.0, 1800.0
PAUSES_S = (5.0, 1800.0)
"""What a pause may be set to."""
