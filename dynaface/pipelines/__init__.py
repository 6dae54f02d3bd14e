"""Whole computations on files' contents, without a database: footage, markers and dots to curves, a performance to files."""
