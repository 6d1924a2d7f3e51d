"""Motion that comes of other motion."""
