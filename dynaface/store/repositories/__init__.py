"""Repositories, one file a table file: SQL in, records out. Each works on the connection of a unit of work."""
