"""Optical markers on a face: where each sits, the head's motion taken out, and the shapes solved from what is left."""
