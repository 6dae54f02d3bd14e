"""Tools that make what is committed: characters, demo media, screenshots."""
