"""Footage: made ready, measured, solved with performer cards and dots; the live camera."""
