"""One file a format, each defining FORMAT."""
