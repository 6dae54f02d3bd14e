"""Takes handed over as files."""
