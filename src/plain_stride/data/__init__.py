"""What the desktop is given when the program is put in place: entry, kind of file, icon."""
