"""Shots: made of takes, opened, evaluated role by role, cut, layered."""
