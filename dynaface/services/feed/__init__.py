"""Feeds: who may listen, how senders are read, what performers' values become, recordings as takes."""
