"""One file a detector, each defining DETECTOR; none imports another."""
