"""The slow loops of the pen's path, compiled where that is ready; everything works without."""
