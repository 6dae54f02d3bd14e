"""Snags: places where something looks wrong, found by calculation, each with a proposed mend."""
