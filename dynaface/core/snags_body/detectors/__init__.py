"""The detectors, one a module, each found by its `DETECTOR`."""
