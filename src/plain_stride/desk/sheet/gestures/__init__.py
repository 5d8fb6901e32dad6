"""What a hand does on the sheet: each gesture by itself, without a window."""
