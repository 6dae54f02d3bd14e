"""Skeletons, matching them, and putting body, neck and head together."""
