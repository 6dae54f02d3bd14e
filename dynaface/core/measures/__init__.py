"""Measures of performers: taken of a skeleton, and bodies made as tall as their performer is."""
