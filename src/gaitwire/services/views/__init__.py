"""What pages show: rows, cards, charts, readouts. Nothing here writes."""
