"""The desk: the window, its stations, the sheet. No arithmetic of the trade lives here."""
