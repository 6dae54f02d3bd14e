"""The rules and the numbers: arrays and frozen dataclasses in, the same out. No files, clock, sockets or logging."""
