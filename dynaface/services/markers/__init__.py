"""Optical markers: their layouts and solves."""
