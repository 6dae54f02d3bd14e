"""Lining recordings up in time."""
