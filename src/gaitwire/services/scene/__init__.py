"""The Floor: gestures on one scene, a concern a module."""
