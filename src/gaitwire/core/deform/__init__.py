"""Soft parts: weights of bones, the blend of bones, and pins that deform as rigidly as possible."""
