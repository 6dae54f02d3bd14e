"""Makers: one file each, found by the registry. None imports another."""
