"""The steps, one a module, each found by its `STEP`."""
