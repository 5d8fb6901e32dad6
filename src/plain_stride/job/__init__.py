"""The job: everything that is on the board, the one way to change it, its history, and the file that keeps it."""
