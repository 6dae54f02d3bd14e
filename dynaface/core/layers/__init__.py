"""Layers: what is added to, put in place of, or scales a performance, in performance space."""
