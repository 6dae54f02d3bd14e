"""Matches: which joint of a character is which of a body, shown, kept by name, and taken elsewhere."""
