"""One file a step, each defining STEP; none imports another."""
