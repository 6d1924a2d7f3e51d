"""What is loose: bones that swing from what carries them, stepped through time."""
