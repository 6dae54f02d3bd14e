"""Makes the demo media."""
