"""Colour dots on a face: picked once, followed through the day's clips, solved like markers that are seen by one camera."""
