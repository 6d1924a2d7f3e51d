"""Keys, channels, loops and easing."""
