"""How the interface looks: colours, type, strokes."""
