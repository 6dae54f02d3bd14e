"""Rendered footage of made-up performers, from truth curves, with the faults of real cameras."""
