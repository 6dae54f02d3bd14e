"""Editing keys, whatever holds them."""
