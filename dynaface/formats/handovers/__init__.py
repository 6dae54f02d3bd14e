"""The forms in which work is handed over: one file each, found by the registry."""
