"""Builds the demo's characters from CC0 base data (see NOTICE)."""
