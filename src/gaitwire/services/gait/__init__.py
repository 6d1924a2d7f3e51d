"""The Stride desk: gait cards, measured walks, and what is seen of them."""
