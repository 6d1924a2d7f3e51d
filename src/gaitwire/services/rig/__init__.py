"""The Bench: gestures on one puppet."""
