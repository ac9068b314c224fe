"""Pictures drawn without a screen: what a camera sees of triangles and lines, and the colours of a key."""
