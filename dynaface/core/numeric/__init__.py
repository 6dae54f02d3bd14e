"""Numerics of no subject: bounded least squares, frame by frame and over whole sequences."""
