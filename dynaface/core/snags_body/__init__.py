"""Snags of bodies: what looks wrong in a body take, or in what it makes of the character."""
