"""What leads bones, pins, pads and tips besides their keys."""
