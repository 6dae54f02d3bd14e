"""One file a command; it is found by its `COMMAND`."""
